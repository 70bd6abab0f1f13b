import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { readDictionary } from '@/server/queries/rules/dictionary';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/dictionary', {
  GET: async ({ params }) => ({ body: await readDictionary(await workspaceOf(params)) }),
});
