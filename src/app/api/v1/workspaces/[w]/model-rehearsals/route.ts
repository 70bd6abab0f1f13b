import { jsonBody, route } from '@/app/api/answer';
import { rehearseModel } from '@/server/actions/change-model';
import { readInput } from '@/server/actions/input';

/** Changes of the model in; what they would do to what is stored and to the rules out. Changes nothing. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const { changes } = readInput('modelRehearsal', await jsonBody(request));
  return { body: await rehearseModel(params.w, changes) };
});
