import fc from 'fast-check';

// Tests act as whoever they name, as in the demo; those of signing in say otherwise.
process.env.OIKON_DEMO ??= '1';

/**
 * Randomised tests repeat the same cases, so that a change that breaks one is what made it fail. `OIKON_SEED` names another beginning: a whole
 * number, or `any` for one of the moment, which fast-check prints where a case fails.
 */
const asked = process.env.OIKON_SEED ?? '20261127';
if (asked !== 'any' && !/^-?\d{1,9}$/.test(asked))
  throw new Error(`OIKON_SEED must be a whole number of up to nine digits, or “any”, not “${asked}”.`);
if (asked !== 'any') fc.configureGlobal({ seed: Number(asked) });
