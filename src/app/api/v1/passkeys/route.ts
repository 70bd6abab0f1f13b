import type { RegistrationResponseJSON } from '@simplewebauthn/server';
import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import { keepPasskey, passkeysOf } from '@/server/sign-in/passkeys';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/passkeys', {
  /** One's own passkeys. */
  GET: async ({ person }) => {
    refuseInDemo();
    return { body: { passkeys: await passkeysOf(person) } };
  },
  /** Keeps one that a browser has made. */
  POST: async ({ person, json, client }) => {
    refuseInDemo();
    const { name, response } = readInput('newPasskey', await json());
    await keepPasskey(person, { name, response: response as RegistrationResponseJSON }, client);
    return { status: 204 };
  },
});
