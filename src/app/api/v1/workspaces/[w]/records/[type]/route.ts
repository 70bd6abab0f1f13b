import { jsonBody, personOf, route, wholeNumber, workspaceOf } from '@/app/api/answer';
import type { Expression } from '@/core/expression';
import { readInput } from '@/server/actions/input';
import { saveEdits } from '@/server/actions/save-edits';
import { listRecords } from '@/server/queries/list-records';
import { getRecord } from '@/server/queries/records';
import { Refusal } from '@/server/refusal';

interface Params {
  w: string;
  type: string;
}

const MOST = 500;

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

/** `?search=` in titles, `?condition=` as JSON, `?sort=field` or `?sort=-field`, `?limit=&after=`, `?bin=true`, `?filter.field=value`. */
export const GET = route<Params>(async ({ params, query }) => {
  const sort = query.get('sort');
  const filter = [...query].flatMap(([key, value]) =>
    key.startsWith('filter.') ? [[key.slice('filter.'.length), value] as const] : [],
  );
  const [search, after] = [query.get('search'), query.get('after')];
  const list = await listRecords(await workspaceOf(params), {
    ...{ type: params.type, filter: Object.fromEntries(filter), isBin: query.get('bin') === 'true' },
    ...(search ? { search } : {}),
    ...(after ? { after } : {}),
    ...conditionOf(query.get('condition')),
    ...(sort ? { sort: sort.replace(/^-/, '') } : {}),
    descending: sort?.startsWith('-') ?? false,
    limit: Math.max(1, wholeNumber(query.get('limit'), 100, MOST, 'limit')),
  });
  return { body: list };
});

export const POST = route<Params>(async ({ request, params }) => {
  const { values, id } = readInput('newRecord', await jsonBody(request));
  const edit = { kind: 'create', type: params.type, values, ...(id ? { id } : {}) } as const;
  const saved = await saveEdits({ workspace: params.w, person: personOf(request), edits: [edit] });
  const view = await getRecord(await workspaceOf(params), params.type, saved.ids[0]!);
  return { status: 201, body: { ...view, run: saved.run, ripple: saved.ripple } };
});
