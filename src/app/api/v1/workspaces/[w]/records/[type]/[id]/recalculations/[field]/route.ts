import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { workOutNow } from '@/server/actions/rules/bring-up-to-date';
import { getRecord } from '@/server/queries/records/records';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/records/{type}/{id}/recalculations/{field}',
  {
    /** Works one field of a record out now, which a rule of a slower pace keeps. */
    POST: async ({ params, person }) => {
      const { w: workspace, type, id, field } = params;
      await getRecord(await workspaceOf(params), type, id);
      const brought = await workOutNow({ workspace, person, at: { type, id, field } });
      return { body: { ...(await getRecord(await workspaceOf(params), type, id)), ...brought } };
    },
  },
);
