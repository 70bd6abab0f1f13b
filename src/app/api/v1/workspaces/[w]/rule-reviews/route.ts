import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { ruleMeasures } from '@/server/queries/rules/rule-measures';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rule-reviews', {
  /** What the data says of a rule as it is written. */
  POST: async ({ params, json }) => {
    const { definition } = readInput('ruleReview', await json());
    return { body: { findings: await ruleMeasures(params.w, definition) } };
  },
});
