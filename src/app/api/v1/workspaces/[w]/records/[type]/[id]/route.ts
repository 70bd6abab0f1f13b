import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { asSeen, readInput } from '@/server/forms/input';
import { queueSave } from '@/server/actions/records/queued-saves';
import { saveEdits } from '@/server/actions/records/save-edits';
import { Refusal } from '@/server/refusal';
import { getRecord } from '@/server/queries/records/records';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/records/{type}/{id}', {
  /** `?bin=true` also finds a record in the bin. */
  GET: async ({ params, query }) => ({
    body: await getRecord(await workspaceOf(params), params.type, params.id, query.get('bin') === 'true'),
  }),
  /** With `Prefer: return=minimal` (RFC 7240) the record isn't read again. */
  PATCH: async ({ params, person, json, request }) => {
    const { values, version, many } = readInput('recordPatch', await json());
    const edit = asSeen({ kind: 'edit', type: params.type, id: params.id, version, values });
    const save = { workspace: params.w, person, edits: [edit] };
    if (many === 'soonAfter') return { status: 202, body: { queued: await queueSave(save) } };
    const saved = await saveEdits({ ...save, asksWhereMany: many === 'ask' });
    const what = { run: saved.run, ripple: saved.ripple };
    if (/\breturn=minimal\b/.test(request.headers.get('prefer') ?? '')) return { body: what };
    return { body: { ...(await getRecord(await workspaceOf(params), params.type, params.id)), ...what } };
  },
  /** `?version=` names the version that the person saw; `*` takes whatever stands there. */
  DELETE: async ({ params, query, person }) => {
    const version = versionOf(query.get('version'));
    const edit = asSeen({ kind: 'delete', type: params.type, id: params.id, version });
    const saved = await saveEdits({ workspace: params.w, person, edits: [edit] });
    return { body: { run: saved.run, ripple: saved.ripple } };
  },
});

function versionOf(text: string | null): number | '*' {
  if (text === '*') return text;
  if (text !== null && /^\d{1,9}$/.test(text)) return Number(text);
  const found = text === null ? 'none' : `“${text}”`;
  throw new Refusal(
    422,
    'edit.version',
    `“version” should be the version that was seen, or * for whatever stands there; found ${found}.`,
  );
}
