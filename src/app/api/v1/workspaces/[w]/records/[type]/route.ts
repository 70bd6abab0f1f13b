import { firstIn } from '@/core/values';
import { listInput } from '@/app/api/list-input';
import { wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf, workspaceSeen } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { saveEdits } from '@/server/actions/records/save-edits';
import { listRecords } from '@/server/queries/records/list-records';
import { checkEditsSeen, rippleSeen } from '@/server/queries/records/seen-part';
import { getSaved } from '@/server/queries/records/records';

const MOST = 500;

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/records/{type}', {
  /** `?search=` in titles, `?condition=` as JSON, `?sort=field` or `?sort=-field`, `?limit=&after=`, `?bin=true`, `?filter.field=value`. */
  GET: async (asked) => {
    const { params, query } = asked;
    const after = query.get('after');
    const list = await listRecords(await workspaceSeen(asked), {
      ...listInput(params.type, query),
      ...(after ? { after } : {}),
      limit: wholeNumber(query.get('limit'), 100, { least: 1, most: MOST, name: 'limit' }),
    });
    return { body: list };
  },
  POST: async (asked) => {
    const { params, person, json } = asked;
    const { values, id, madeFor } = readInput('newRecord', await json());
    const edit = {
      kind: 'create',
      type: params.type,
      values,
      ...(id ? { id } : {}),
      ...(madeFor ? { madeFor } : {}),
    } as const;
    await checkEditsSeen(await workspaceSeen(asked), [edit]);
    const saved = await saveEdits({ workspace: params.w, person, edits: [edit] });
    const workspace = await workspaceSeen(asked);
    const view = await getSaved(workspace, await workspaceOf(params), params.type, firstIn(saved.ids));
    return {
      status: 201,
      body: { ...view, run: saved.run, ripple: await rippleSeen(workspace, saved.ripple) },
    };
  },
});
