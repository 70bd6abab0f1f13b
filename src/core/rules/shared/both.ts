import { type Typed, YES_NO } from '@/core/expression';

/** A test that holds where another one does too; that alone where there is no first. */
export const both = (one: Typed | null, other: Typed): Typed =>
  one ? { kind: 'group', type: YES_NO, operator: 'all', of: [one, other] } : other;

/** A test that holds where all do; `null` where there are none. */
export const allOf = (tests: readonly Typed[]): Typed | null =>
  tests.reduce<Typed | null>((all, test) => (all ? both(all, test) : test), null);
