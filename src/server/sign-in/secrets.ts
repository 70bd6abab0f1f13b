import { createHash, randomBytes } from 'node:crypto';

/** 256 random bits, as they stand in a cookie or an address. */
export const newSecret = (): string => randomBytes(32).toString('base64url');

/** What is stored of a secret: by it alone nobody signs in. A secret of 256 random bits needs no slow hash. */
export const hashOf = (secret: string): Buffer => createHash('sha256').update(secret).digest();
