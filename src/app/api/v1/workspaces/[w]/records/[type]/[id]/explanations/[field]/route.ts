import { wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf, workspaceSeen } from '@/app/api/endpoint';
import { explanationSeen } from '@/server/queries/records/explanation-seen';
import { getExplanation } from '@/server/queries/records/explanation';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/records/{type}/{id}/explanations/{field}',
  {
    /** `?from=&limit=` give a page of what is in it. */
    GET: async (asked) => {
      const { params, query } = asked;
      const { type, id, field } = params;
      const from = wholeNumber(query.get('from'), 0, { most: 100_000_000, name: 'from' });
      const limit = wholeNumber(query.get('limit'), 200, { least: 1, most: 500, name: 'limit' });
      const seen = await workspaceSeen(asked);
      const whole = await workspaceOf(params);
      if (seen.sight) return { body: await explanationSeen(seen, whole, { type, id, field }) };
      return { body: await getExplanation(whole, { type, id, field, from, limit }) };
    },
  },
);
