import { visitCookie } from '@/app/api/asking';
import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo, visiting } from '@/app/api/entering';
import { beginVisit } from '@/server/sign-in/provider';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/session/provider', {
  /** Leads to the company's sign-in; `to`: where one goes on when one is back. */
  GET: ({ query }) => {
    refuseInDemo();
    return visiting(async (provider) => {
      const { address, state } = await beginVisit(provider, query.get('to') ?? '/');
      return { to: address, cookies: [visitCookie(state)] };
    });
  },
});
