import { jsonBody, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { ruleMeasures } from '@/server/queries/rule-measures';

/** What the data says of a rule as it is written. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const { definition } = readInput('ruleReview', await jsonBody(request));
  return { body: { findings: await ruleMeasures(params.w, definition) } };
});
