import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { welcomeOf } from '@/server/sign-in/choose-password';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/welcome', {
  /** What an address that is good once is for. It is asked in the body, so that no log has it. */
  POST: async ({ json }) => {
    refuseInDemo();
    const { secret } = readInput('oneTime', await json());
    return { body: await welcomeOf(secret) };
  },
});
