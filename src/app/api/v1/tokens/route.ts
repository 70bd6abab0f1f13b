import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { certain } from '@/core/values';
import { makeToken, tokensOf } from '@/server/sign-in/tokens';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/tokens', {
  /** One's own tokens. */
  GET: async ({ person }) => {
    refuseInDemo();
    return { body: { tokens: await tokensOf(person) } };
  },
  /** Makes one; it is told once. */
  POST: async ({ signedIn, json }) => {
    refuseInDemo();
    const input = readInput('newToken', await json());
    return { status: 201, body: { token: await makeToken(certain(signedIn), input) } };
  },
});
