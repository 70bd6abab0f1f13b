import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { Refusal } from '@/server/refusal';
import { endToken } from '@/server/sign-in/tokens';
import { isUuid } from '@/server/uuid';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/tokens/{handle}', {
  /** Ends one of one's own tokens, at once. */
  DELETE: async ({ params, person }) => {
    refuseInDemo();
    if (!isUuid(params.handle) || !(await endToken(person, params.handle)))
      throw new Refusal(404, 'token.unknown', 'There is no such token. It may have ended already.');
    return { status: 204 };
  },
});
