import { jsonLines, personOf, route } from '@/app/api/answer';
import { importRecords } from '@/server/actions/import-records';

/** A record on each line, as JSON (`application/x-ndjson`); read as it comes in, so that its length doesn't matter. */
export const POST = route<{ w: string; type: string }>(async ({ request, params, query }) => {
  const note = query.get('note');
  const imported = await importRecords({
    ...{ workspace: params.w, person: personOf(request), type: params.type, records: jsonLines(request) },
    ...(note ? { note } : {}),
  });
  return { status: 201, body: imported };
});
