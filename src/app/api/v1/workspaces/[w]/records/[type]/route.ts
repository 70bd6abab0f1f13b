import { listInput } from '@/app/api/list-input';
import { jsonBody, personOf, route, wholeNumber, workspaceOf } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { saveEdits } from '@/server/actions/save-edits';
import { listRecords } from '@/server/queries/list-records';
import { getRecord } from '@/server/queries/records';

interface Params {
  w: string;
  type: string;
}

const MOST = 500;

/** `?search=` in titles, `?condition=` as JSON, `?sort=field` or `?sort=-field`, `?limit=&after=`, `?bin=true`, `?filter.field=value`. */
export const GET = route<Params>(async ({ params, query }) => {
  const after = query.get('after');
  const list = await listRecords(await workspaceOf(params), {
    ...listInput(params.type, query),
    ...(after ? { after } : {}),
    limit: Math.max(1, wholeNumber(query.get('limit'), 100, MOST, 'limit')),
  });
  return { body: list };
});

export const POST = route<Params>(async ({ request, params }) => {
  const { values, id, madeFor } = readInput('newRecord', await jsonBody(request));
  const edit = {
    kind: 'create',
    type: params.type,
    values,
    ...(id ? { id } : {}),
    ...(madeFor ? { madeFor } : {}),
  } as const;
  const saved = await saveEdits({ workspace: params.w, person: personOf(request), edits: [edit] });
  const view = await getRecord(await workspaceOf(params), params.type, saved.ids[0]!);
  return { status: 201, body: { ...view, run: saved.run, ripple: saved.ripple } };
});
