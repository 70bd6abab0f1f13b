import { askPrepared } from '@/server/database/connection';

/** That somebody is still signed in, and may what they could: asked along with what is saved for them. */
export interface Proof {
  readonly by: 'session' | 'token';
  /** What is stored of the secret by which they are. */
  readonly id: Buffer;
  /** When what they may changed last, as the database writes it. */
  readonly since: string;
}

/** A proof that is to be given before anything is answered. */
export interface Proving extends Proof {
  /** Whether it was found to be so. */
  holds: boolean;
}

/** Who asks isn't signed in any more, or may something else by now: nothing was saved, and they are to be asked for anew. */
export class NoLongerSo extends Error {
  constructor() {
    super('Who asks is to be asked for anew');
  }
}

/** In SQL, to be asked along with something else by the values of `proofOf`, which stand at these places: a boolean. */
export const stillSignedIn = ({ by }: Proof, [id, since]: readonly [string, string] = ['$1', '$2']): string =>
  `EXISTS (SELECT FROM public.${by} k JOIN public.person p ON p.id = k.person WHERE k.id = ${id} AND p.rights_changed = ${since}::timestamptz)`;
export const proofOf = ({ id, since }: Proof): readonly [Buffer, string] => [id, since];

/** Whether somebody is still signed in, and may what they could. */
export async function isStill(proof: Proof): Promise<boolean> {
  const text = `SELECT ${stillSignedIn(proof)} AS still`;
  const [found] = await askPrepared<{ still: boolean }>(`still by ${proof.by}`, text, proofOf(proof));
  return found?.still === true;
}
