import { askerOf, route, workspaceOf } from '@/app/api/answer';
import { filledFor } from '@/server/queries/filled';

interface Params {
  w: string;
  id: string;
  source: string;
}

/** What the rule would make for a record, for a person to complete. Saves nothing. */
export const GET = route<Params>(async ({ request, params }) => ({
  body: await filledFor(await workspaceOf(params), params.id, params.source, askerOf(request)),
}));
