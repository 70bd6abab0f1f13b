import { jsonLines, personOf } from '@/app/api/answer';
import { longRoute } from '@/app/api/long-answer';
import { planAndFile } from '@/app/api/import-body';
import { importFile } from '@/server/actions/import-file';
import { importRecords } from '@/server/actions/import-records';

/**
 * Takes many records in as one run. A body of JSON Lines (`application/x-ndjson`) has a new record on each line, values as the API has
 * them; one of `application/octet-stream` is a plan and a file, see `planAndFile`. Both are read as they come in, so that their
 * length doesn't matter.
 */
export const POST = longRoute<{ w: string; type: string }>(async ({ request, params, query }, tell) => {
  const note = query.get('note');
  const given = {
    ...{ workspace: params.w, person: personOf(request), type: params.type },
    ...(note ? { note } : {}),
  };
  if (request.headers.get('content-type')?.startsWith('application/octet-stream'))
    return { status: 201, body: await importFile({ ...given, ...(await planAndFile(request)), tell }) };
  return { status: 201, body: await importRecords({ ...given, records: jsonLines(request) }) };
});
