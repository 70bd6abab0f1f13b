import { endpoint, workspaceOf } from '@/app/api/endpoint';
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

export const { GET, POST, PUT, PATCH, DELETE } = endpoint<Params>(
  '/api/v1/workspaces/{w}/records/{type}/{id}',
  {
    /** `?bin=true` also finds a record in the bin. */
    GET: async ({ params, query }) => ({
      body: await getRecord(await workspaceOf(params), params.type, params.id, query.get('bin') === 'true'),
    }),
    PATCH: async ({ params, person, json }) => {
      const { values, version, many } = readInput('recordPatch', await json());
      const edit = { kind: 'edit', type: params.type, id: params.id, version, values } as const;
      const save = { workspace: params.w, person, edits: [edit] };
      if (many === 'soonAfter') return { status: 202, body: { queued: await queueSave(save) } };
      const saved = await saveEdits({ ...save, asksWhereMany: many === 'ask' });
      const view = await getRecord(await workspaceOf(params), params.type, params.id);
      return { body: { ...view, run: saved.run, ripple: saved.ripple } };
    },
    /** `?version=` names the version that the person saw. */
    DELETE: async ({ params, query, person }) => {
      const version = query.get('version');
      const edit = {
        kind: 'delete',
        type: params.type,
        id: params.id,
        ...(version ? { version: versionOf(version) } : {}),
      } as const;
      const saved = await saveEdits({ workspace: params.w, person, edits: [edit] });
      return { body: { run: saved.run, ripple: saved.ripple } };
    },
  },
);

function versionOf(text: string): number {
  if (/^\d{1,9}$/.test(text)) return Number(text);
  throw new Refusal(422, 'edit.version', `“version” should be a whole number, found “${text}”.`);
}
