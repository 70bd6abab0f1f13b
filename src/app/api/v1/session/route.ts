import { keptCookie } from '@/app/api/asking';
import { endpoint } from '@/app/api/endpoint';
import { entered, refuseInDemo, sessionAnswer } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { noteSecurity } from '@/server/sign-in/security-events';
import { endSession } from '@/server/sign-in/sessions';
import { signIn } from '@/server/sign-in/sign-in';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/session', {
  /** Who is signed in. */
  GET: ({ signedIn }) => Promise.resolve({ body: sessionAnswer(signedIn) }),
  /** Signs in by e-mail and password. Whoever was signed in by this browser isn't any more. */
  POST: async ({ json, signedIn, client }) => {
    refuseInDemo();
    const secret = await signIn(readInput('signIn', await json()), client);
    if (signedIn) await endSession(signedIn.person, signedIn.handle);
    return entered(secret);
  },
  /** Signs out. */
  DELETE: async ({ signedIn, client }) => {
    if (signedIn) {
      await endSession(signedIn.person, signedIn.handle);
      await noteSecurity({ kind: 'signedOut', person: signedIn.person, address: client.address });
    }
    return { status: 204, cookie: keptCookie(null) };
  },
});
