import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { newPasskeyOptions } from '@/server/sign-in/passkeys';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/passkeys/challenges', {
  /** What a browser is to make a passkey by (WebAuthn, PublicKeyCredentialCreationOptionsJSON). */
  POST: async ({ person }) => {
    refuseInDemo();
    return { status: 201, body: { options: { ...(await newPasskeyOptions(person)) } } };
  },
});
