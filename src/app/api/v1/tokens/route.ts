import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { makeToken, tokensOf } from '@/server/sign-in/tokens';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/tokens', {
  /** One's own tokens. */
  GET: async ({ person }) => {
    refuseInDemo();
    return { body: { tokens: await tokensOf(person) } };
  },
  /** Makes one; it is told once. */
  POST: async ({ person, json }) => {
    refuseInDemo();
    return { status: 201, body: { token: await makeToken(person, readInput('newToken', await json())) } };
  },
});
