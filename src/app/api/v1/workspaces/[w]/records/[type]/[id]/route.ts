import { endpoint, workspaceOf, workspaceSeen } from '@/app/api/endpoint';
import { asSeen, readInput } from '@/server/forms/input';
import { queueSave } from '@/server/actions/records/queued-saves';
import { saveEdits } from '@/server/actions/records/save-edits';
import { Refusal } from '@/server/refusal';
import { checkEditsSeen, rippleSeen } from '@/server/queries/records/seen-part';
import { getRecord, getSaved } from '@/server/queries/records/records';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/records/{type}/{id}', {
  /** `?bin=true` also finds a record in the bin. */
  GET: async (asked) => {
    const { params, query } = asked;
    const isBin = query.get('bin') === 'true';
    return { body: await getRecord(await workspaceSeen(asked), params.type, params.id, isBin) };
  },
  /** With `Prefer: return=minimal` (RFC 7240) the record isn't read again. */
  PATCH: async (asked) => {
    const { params, person, json, request } = asked;
    const { values, version, many } = readInput('recordPatch', await json());
    const edit = asSeen({ kind: 'edit', type: params.type, id: params.id, version, values });
    await checkEditsSeen(await workspaceSeen(asked), [edit]);
    const save = { workspace: params.w, person, edits: [edit] };
    if (many === 'soonAfter') return { status: 202, body: { queued: await queueSave(save) } };
    // How many would follow isn’t told to who sees a part.
    const asksWhereMany = many === 'ask' && asked.sight === null;
    const saved = await saveEdits({ ...save, asksWhereMany });
    const workspace = await workspaceSeen(asked);
    const what = { run: saved.run, ripple: await rippleSeen(workspace, saved.ripple) };
    if (/\breturn=minimal\b/.test(request.headers.get('prefer') ?? '')) return { body: what };
    return {
      body: { ...(await getSaved(workspace, await workspaceOf(params), params.type, params.id)), ...what },
    };
  },
  /** `?version=` names the version that the person saw; `*` takes whatever stands there. */
  DELETE: async (asked) => {
    const { params, query, person } = asked;
    const version = versionOf(query.get('version'));
    const edit = asSeen({ kind: 'delete', type: params.type, id: params.id, version });
    const workspace = await workspaceSeen(asked);
    await checkEditsSeen(workspace, [edit]);
    const saved = await saveEdits({ workspace: params.w, person, edits: [edit] });
    return { body: { run: saved.run, ripple: await rippleSeen(workspace, saved.ripple) } };
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
