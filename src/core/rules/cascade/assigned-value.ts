import {
  evaluatorOf,
  Failure,
  inRun,
  OUTSIDE,
  type Outside,
  type ReadOf,
  type RunContext,
  type TypedField,
} from '@/core/expression';
import {
  displayValue,
  PLAIN_FORM,
  fitValue,
  cutText,
  LONG_TEXT_LENGTH,
  type Outcome,
  TEXT_LENGTH,
  type Value,
} from '@/core/values';
import type { ReactingCascade, TextPart } from './cascade';

/** A record that hands a value on, as it stands and as it was before the run. */
export interface AssigningRun<T> {
  readonly now: T;
  readonly before: T;
  /** The record across which it goes, where the rule reads it. */
  readonly via?: { readonly type: string; readonly at: T } | null;
  /** Of the run in which it does; `null` where nothing may read it. */
  readonly facts: RunContext | null;
}

/** What a record cascades, fitted to the field that takes it. Text is cut to the field's length; what is empty in it is left out. */
export function assignedOutcome<T>(
  rule: Pick<ReactingCascade, 'value' | 'target'>,
  { now, before, via, facts }: AssigningRun<T>,
  read: ReadOf<T>,
): Outcome | Outside {
  const { value, target } = rule;
  if (value.kind === 'text') {
    const text = joined(value.parts, (part) => (via && part.from === via.type ? via.at : now), read);
    if (text === OUTSIDE) return OUTSIDE;
    if (text instanceof Failure) return { error: text.code };
    const most = target.type.kind === 'text' ? TEXT_LENGTH : LONG_TEXT_LENGTH;
    return fitValue(cutText(text, most), target.type, null);
  }
  const worked = evaluatorOf(inRun(value.value, facts))(value.isBefore ? before : now, read);
  if (worked === OUTSIDE) return OUTSIDE;
  return worked instanceof Failure ? { error: worked.code } : fitValue(worked, target.type, null);
}

function joined<T>(
  parts: readonly TextPart[],
  on: (part: TypedField) => T,
  read: ReadOf<T>,
): string | Outside | Failure {
  let text = '';
  for (const part of parts) {
    const found: Value | Outside | Failure = typeof part === 'string' ? part : read(on(part), part);
    if (found === OUTSIDE || found instanceof Failure) return found;
    if (found !== null)
      text += typeof part === 'string' ? part : displayValue(part.type, found, (id) => id, PLAIN_FORM);
  }
  return text;
}
