import type { OfRun } from '@/core/syntax/expression';
import type { ValueType } from '@/core/values';

/** What an expression can read of the run that it is worked out in: its kind, and what it is called in a sentence. */
export const OF_RUN: Record<OfRun, { readonly type: ValueType; readonly words: string }> = {
  person: { type: { kind: 'person' }, words: 'the person who makes the change' },
  me: { type: { kind: 'person' }, words: 'me' },
  moment: { type: { kind: 'dateTime' }, words: 'the moment of the change' },
};
