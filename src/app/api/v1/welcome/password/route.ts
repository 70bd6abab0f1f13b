import { endpoint } from '@/app/api/endpoint';
import { entered, refuseInDemo, sessionAnswer } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { choosePassword } from '@/server/sign-in/choose-password';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/welcome/password', {
  /** Somebody chooses their password by an address that is good once. */
  POST: async ({ json, client }) => {
    refuseInDemo();
    const { secret, password } = readInput('newPassword', await json());
    const session = await choosePassword(secret, password, client);
    // Who gives a second step after the password signs in by both.
    return session === null ? { status: 201, body: sessionAnswer(null) } : entered(session);
  },
});
