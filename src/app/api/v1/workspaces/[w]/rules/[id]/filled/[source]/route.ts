import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { filledFor } from '@/server/queries/records/filled';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/rules/{id}/filled/{source}',
  {
    /** What the rule would make for a record, for a person to complete. Saves nothing. */
    GET: async ({ params, person }) => ({
      body: await filledFor(await workspaceOf(params), params.id, params.source, person || null),
    }),
  },
);
