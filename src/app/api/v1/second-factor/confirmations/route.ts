import { keptCookie } from '@/app/api/asking';
import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { confirmSecondFactor } from '@/server/sign-in/second-factor';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/second-factor/confirmations', {
  /** The second step counts from now on, shown by a code of it. */
  POST: async ({ person, json, client }) => {
    refuseInDemo();
    const { code } = readInput('code', await json());
    const { session, spare } = await confirmSecondFactor(person, code, client);
    return { status: 201, cookie: keptCookie(session), body: { spare } };
  },
});
