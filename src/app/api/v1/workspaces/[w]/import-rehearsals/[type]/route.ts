import { personOf } from '@/app/api/answer';
import { longRoute } from '@/app/api/long-answer';
import { planAndFile } from '@/app/api/import-body';
import { rehearseImport } from '@/server/actions/import-file';

/** What an import of a file would do; saves nothing. The body is a plan and the file, see `planAndFile`. */
export const POST = longRoute<{ w: string; type: string }>(async ({ request, params }, tell) => {
  const { plan, bytes } = await planAndFile(request);
  const given = { workspace: params.w, person: personOf(request), type: params.type };
  return { body: await rehearseImport({ ...given, plan, bytes, tell }) };
});
