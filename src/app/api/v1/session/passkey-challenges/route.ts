import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { passkeyOptions } from '@/server/sign-in/passkeys';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/session/passkey-challenges', {
  /** What a browser is to sign with a passkey (WebAuthn, PublicKeyCredentialRequestOptionsJSON). */
  POST: async () => {
    refuseInDemo();
    return { status: 201, body: { options: { ...(await passkeyOptions()) } } };
  },
});
