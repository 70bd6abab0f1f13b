import { wholeNumber } from '@/app/api/answer';
import { endpoint } from '@/app/api/endpoint';
import { securityEvents } from '@/server/sign-in/security-events';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/security-events', {
  /** `?before=` the `next` of the page before, `?limit=` how many. */
  GET: async ({ query }) => {
    const before = query.get('before');
    const bounds = { most: Number.MAX_SAFE_INTEGER, name: 'before' };
    const earlier = before === null ? null : String(wholeNumber(before, 0, bounds));
    const limit = wholeNumber(query.get('limit'), 100, { least: 1, most: 1_000, name: 'limit' });
    return { body: await securityEvents(earlier, limit) };
  },
});
