import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { Refusal } from '@/server/refusal';
import { removePasskey } from '@/server/sign-in/passkeys';
import { isUuid } from '@/server/uuid';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/passkeys/{handle}', {
  /** Removes one of one's own passkeys. */
  DELETE: async ({ params, person }) => {
    refuseInDemo();
    if (!isUuid(params.handle) || !(await removePasskey(person, params.handle)))
      throw new Refusal(
        404,
        'passkey.unknown',
        'There is no such passkey. It may have been removed already.',
      );
    return { status: 204 };
  },
});
