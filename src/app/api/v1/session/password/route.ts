import { endpoint } from '@/app/api/endpoint';
import { entered, refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { changePassword } from '@/server/sign-in/sign-in';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/session/password', {
  /** Chooses another password, giving the one that one has. */
  POST: async ({ json, person, client }) => {
    refuseInDemo();
    return entered(await changePassword(person, readInput('ownPassword', await json()), client));
  },
});
