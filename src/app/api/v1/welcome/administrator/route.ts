import { endpoint } from '@/app/api/endpoint';
import { entered, refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { makeFirstAdministrator } from '@/server/sign-in/choose-password';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/welcome/administrator', {
  /** The first administrator makes their account by an address that is good once. */
  POST: async ({ json, client }) => {
    refuseInDemo();
    const { secret, ...account } = readInput('firstAdministrator', await json());
    return entered(await makeFirstAdministrator(secret, account, client));
  },
});
