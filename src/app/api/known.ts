import { LRUCache } from 'lru-cache';
import type { Sight } from '@/core/model';
import type { Proof } from '@/server/sign-in/proof';
import type { SignedIn } from '@/server/sign-in/sessions';
import type { Access } from './access';

/** Who asks by a secret, as the database told a moment ago, and by what that is held against it. Nothing is answered before it is proved. */
export interface Known {
  readonly person: string;
  readonly signedIn: SignedIn | null;
  readonly sight: Sight | null;
  /** What they asked for then: of something else they may be refused. */
  readonly access: Access;
  readonly proof: Proof;
}

/** Milliseconds for which somebody is known at most, and how many are. Then nothing of them is kept, their secret least of all. */
const KNOWN_FOR = 30_000;
const MOST_KNOWN = 5_000;

const globals = globalThis as { oikonKnown?: LRUCache<string, Known> };
const known = (): LRUCache<string, Known> =>
  (globals.oikonKnown ??= new LRUCache({ max: MOST_KNOWN, ttlAutopurge: true, ttlResolution: 0 }));

const keyOf = (secret: string, workspace: string): string => `${secret} ${workspace}`;

export const knownBy = (secret: string, workspace: string): Known | undefined =>
  known().get(keyOf(secret, workspace));

/** Keeps who asks by a secret, for no more than so many milliseconds. */
export function keepKnown(secret: string, workspace: string, who: Known, left: number): void {
  const ttl = Math.floor(Math.min(left, KNOWN_FOR));
  if (ttl >= 1) known().set(keyOf(secret, workspace), who, { ttl });
}

/** For tests: nobody is known. */
export const forgetKnown = (): void => known().clear();
