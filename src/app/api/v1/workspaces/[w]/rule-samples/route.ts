import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { tellingSample } from '@/server/queries/rules/telling-sample';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rule-samples', {
  /** The record on which a rule as it is written tells most. */
  POST: async ({ params, json }) => {
    const { definition } = readInput('ruleReview', await json());
    return { body: { id: await tellingSample(params.w, definition) } };
  },
});
