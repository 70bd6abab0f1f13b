import { personOf, route, workspaceOf } from '@/app/api/answer';
import { workOutNow } from '@/server/actions/bring-up-to-date';
import { getRecord } from '@/server/queries/records';

/** Works one field of a record out now, which a rule of a slower pace keeps. */
export const POST = route<{ w: string; type: string; id: string; field: string }>(
  async ({ request, params }) => {
    const { w: workspace, type, id, field } = params;
    const person = personOf(request);
    await getRecord(await workspaceOf(params), type, id);
    const brought = await workOutNow({ workspace, person, at: { type, id, field } });
    return { body: { ...(await getRecord(await workspaceOf(params), type, id)), ...brought } };
  },
);
