import { type Form, PLAIN_FORM, writeBy } from '@/core/values';
import type { Proving } from '@/server/sign-in/proof';
import { AsyncLocalStorage } from 'node:async_hooks';

/** The key that a client gave a write (`Idempotency-Key`), by which it is known again. */
export interface RequestKey {
  readonly key: string;
  readonly person: string;
  /** A hash of all that was asked for. */
  readonly fingerprint: string;
  /** The schema that keeps it: the workspace's, or `public` for what is done to the installation. */
  readonly schema: string;
}

/**
 * The request that is being carried out. What it saves is noted here, so that its answer says what is known: a failure after the commit
 * isn't “nothing was saved”.
 */
export interface RequestContext {
  readonly key: RequestKey | null;
  /** Whether something of it is saved by now. */
  hasSaved: boolean;
  /** What is to be found true before anything is saved or answered; `null`: nothing any more. */
  readonly proof: Proving | null;
  /** How whoever asks reads numbers and dates. */
  readonly form: Form;
}

const globals = globalThis as { oikonRequest?: AsyncLocalStorage<RequestContext> };
const storage = (): AsyncLocalStorage<RequestContext> =>
  (globals.oikonRequest ??= new AsyncLocalStorage<RequestContext>());

/** Carries a request out; `null` outside of any, as in jobs. */
export const inRequest = <T>(context: RequestContext, work: () => Promise<T>): Promise<T> =>
  storage().run(context, work);

/** Texts of an answer are written by the form of whoever asks; all others plainly. */
writeBy(() => storage().getStore()?.form ?? PLAIN_FORM);

export const requestContext = (): RequestContext | null => storage().getStore() ?? null;
