import { certain } from '@/core/values';
import { endpoint } from '@/app/api/endpoint';
import { entered, refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { changePassword } from '@/server/sign-in/sign-in';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/session/password', {
  /** Chooses another password, giving the one that one has. */
  POST: async ({ json, signedIn, client }) => {
    refuseInDemo();
    return entered(await changePassword(certain(signedIn), readInput('ownPassword', await json()), client));
  },
});
