import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { Refusal } from '@/server/refusal';
import { settings } from '@/server/settings';

const CIPHER = 'aes-256-gcm';
const NONCE = 12;
const TAG = 16;

/** Whether anything can be stored that must be read again. */
export const canSeal = (): boolean => settings().key !== null;

function key(): Buffer {
  const { key: found } = settings();
  if (found) return found;
  throw new Refusal(
    409,
    'key.missing',
    'This installation has no key of its own, so a second step can’t be kept. Ask its operator to set OIKON_KEY_FILE; a passkey needs none.',
  );
}

/** Seals something with the installation's key (AES-256-GCM), so that the database alone doesn't tell it; it is read back only as what `about` says. */
export function seal(what: Buffer, about: string): Buffer {
  const nonce = randomBytes(NONCE);
  const cipher = createCipheriv(CIPHER, key(), nonce).setAAD(Buffer.from(about));
  const body = Buffer.concat([cipher.update(what), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), body]);
}

/** Reads back what was sealed; throws where it was with another key, or is about something else. */
export function unseal(sealed: Buffer, about: string): Buffer {
  const decipher = createDecipheriv(CIPHER, key(), sealed.subarray(0, NONCE))
    .setAAD(Buffer.from(about))
    .setAuthTag(sealed.subarray(NONCE, NONCE + TAG));
  return Buffer.concat([decipher.update(sealed.subarray(NONCE + TAG)), decipher.final()]);
}
