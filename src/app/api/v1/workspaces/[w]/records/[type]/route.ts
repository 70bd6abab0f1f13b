import { jsonBody, personOf, route, workspaceOf } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { saveEdits } from '@/server/actions/save-edits';
import { getRecord, listRecords } from '@/server/queries/records';
import { Refusal } from '@/server/refusal';

interface Params {
  w: string;
  type: string;
}

const MOST = 500;

function wholeNumber(text: string | null, otherwise: number, most: number, name: string): number {
  if (text === null) return otherwise;
  const number = Number(text);
  if (/^\d{1,9}$/.test(text) && number <= most) return number;
  throw new Refusal(422, 'list.page', `“${name}” should be a whole number up to ${most}, found “${text}”.`);
}

/** `?search=` in titles, `?sort=field` or `?sort=-field`, `?limit=&offset=`, `?filter.field=value`. */
export const GET = route<Params>(async ({ params, query }) => {
  const sort = query.get('sort');
  const filter = [...query].flatMap(([key, value]) =>
    key.startsWith('filter.') ? [[key.slice('filter.'.length), value] as const] : [],
  );
  const search = query.get('search');
  const list = await listRecords(await workspaceOf(params), {
    type: params.type,
    ...(search ? { search } : {}),
    filter: Object.fromEntries(filter),
    ...(sort ? { sort: sort.replace(/^-/, '') } : {}),
    descending: sort?.startsWith('-') ?? false,
    limit: wholeNumber(query.get('limit'), 100, MOST, 'limit'),
    offset: wholeNumber(query.get('offset'), 0, 100_000_000, 'offset'),
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
