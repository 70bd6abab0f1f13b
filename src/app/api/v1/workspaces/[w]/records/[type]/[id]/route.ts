import { jsonBody, personOf, route, workspaceOf } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { queueSave } from '@/server/actions/queued-saves';
import { saveEdits } from '@/server/actions/save-edits';
import { Refusal } from '@/server/refusal';
import { getRecord } from '@/server/queries/records';

interface Params {
  w: string;
  type: string;
  id: string;
}

/** `?bin=true` also finds a record in the bin. */
export const GET = route<Params>(async ({ params, query }) => ({
  body: await getRecord(await workspaceOf(params), params.type, params.id, query.get('bin') === 'true'),
}));

export const PATCH = route<Params>(async ({ request, params }) => {
  const { values, version, many } = readInput('recordPatch', await jsonBody(request));
  const edit = { kind: 'edit', type: params.type, id: params.id, version, values } as const;
  const save = { workspace: params.w, person: personOf(request), edits: [edit] };
  if (many === 'soonAfter') return { status: 202, body: { queued: await queueSave(save) } };
  const saved = await saveEdits({ ...save, asksWhereMany: many === 'ask' });
  const view = await getRecord(await workspaceOf(params), params.type, params.id);
  return { body: { ...view, run: saved.run, ripple: saved.ripple } };
});

function versionOf(text: string): number {
  if (/^\d{1,9}$/.test(text)) return Number(text);
  throw new Refusal(422, 'edit.version', `“version” should be a whole number, found “${text}”.`);
}

/** `?version=` names the version that the person saw. */
export const DELETE = route<Params>(async ({ request, params, query }) => {
  const version = query.get('version');
  const edit = {
    kind: 'delete',
    type: params.type,
    id: params.id,
    ...(version ? { version: versionOf(version) } : {}),
  } as const;
  const saved = await saveEdits({ workspace: params.w, person: personOf(request), edits: [edit] });
  return { body: { run: saved.run, ripple: saved.ripple } };
});
