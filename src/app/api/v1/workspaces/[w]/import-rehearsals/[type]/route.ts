import { endpoint } from '@/app/api/endpoint';
import { planAndFile } from '@/app/api/import-body';
import { rehearseImport } from '@/server/actions/imports/import-file';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/import-rehearsals/{type}', {
  /** What an import of a file would do; saves nothing. The body is a plan and the file, see `planAndFile`. */
  POST: async ({ params, person, body, tell }) => {
    const { plan, bytes } = await planAndFile(body);
    const given = { workspace: params.w, person, type: params.type };
    return { body: await rehearseImport({ ...given, plan, bytes, tell }) };
  },
});
