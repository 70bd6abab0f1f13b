import type { AuthenticationResponseJSON } from '@simplewebauthn/server';
import { endpoint } from '@/app/api/endpoint';
import { entered, refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { signInByPasskey } from '@/server/sign-in/passkeys';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/session/passkey', {
  /** Signs in by what a passkey has signed. */
  POST: async ({ json, client }) => {
    refuseInDemo();
    const { response } = readInput('passkeyShown', await json());
    return entered(await signInByPasskey(response as AuthenticationResponseJSON, client));
  },
});
