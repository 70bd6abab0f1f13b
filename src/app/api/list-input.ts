import type { Expression } from '@/core/expression';
import { readInput } from '@/server/forms/input';
import type { Beneath, ListInput } from '@/server/queries/records/list-records';
import { Refusal } from '@/server/refusal';

/** The condition of a list, as JSON within the address. */
function conditionOf(text: string | null): { condition?: Expression } {
  if (text === null || text === '') return {};
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new Refusal(400, 'list.condition', `“condition” isn’t JSON: ${(error as Error).message}.`);
  }
  return { condition: readInput('condition', value) };
}

/** Which records a list holds and in which order, from its address. */
export function listInput(type: string, query: URLSearchParams): Omit<ListInput, 'limit' | 'after'> {
  const sort = query.get('sort');
  const search = query.get('search');
  const filter = [...query].flatMap(([key, value]) =>
    key.startsWith('filter.') ? [[key.slice('filter.'.length), value] as const] : [],
  );
  const beneath = [...query].flatMap(([key, value]): Beneath[] => {
    if (!key.startsWith('beneath.')) return [];
    const [through = '', id = ''] = value.split(':');
    return [{ link: key.slice('beneath.'.length), through, id }];
  });
  return {
    ...{ type, filter: Object.fromEntries(filter), isBin: query.get('bin') === 'true' },
    ...(search ? { search } : {}),
    ...(beneath.length > 0 ? { beneath } : {}),
    ...conditionOf(query.get('condition')),
    ...(sort ? { sort: sort.replace(/^-/, '') } : {}),
    descending: sort?.startsWith('-') ?? false,
  };
}
