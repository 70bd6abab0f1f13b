import { jsonLines } from '@/app/api/body';
import { endpoint } from '@/app/api/endpoint';
import { planAndFile } from '@/app/api/import-body';
import { importFile } from '@/server/actions/imports/import-file';
import { importRecords } from '@/server/actions/imports/import-records';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/imports/{type}', {
  /**
   * Takes many records in as one run. A body of JSON Lines (`application/x-ndjson`) has a new record on each line, values as the API has
   * them; one of `application/octet-stream` is a plan and a file, see `planAndFile`. Both are read as they come in, so that their
   * length doesn't matter.
   */
  POST: async ({ request, params, query, person, body, tell }) => {
    const note = query.get('note');
    const given = {
      ...{ workspace: params.w, person, type: params.type },
      ...(note ? { note } : {}),
    };
    if (request.headers.get('content-type')?.startsWith('application/octet-stream'))
      return { status: 201, body: await importFile({ ...given, ...(await planAndFile(body)), tell }) };
    return { status: 201, body: await importRecords({ ...given, records: jsonLines(body) }) };
  },
});
