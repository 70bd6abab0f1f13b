import { evaluatorOf, Failure, OUTSIDE, type Outside, type Typed } from '../expression';
import type { Outcome } from '../values';
import type { Reader } from './evaluate-roll-up';
import type { CompiledFormula } from './formula';
import { writtenFrom } from './written';

/** The value of a formula on a record, rounded and fitted to its target. */
export function formulaOutcome<T>(rule: CompiledFormula, at: T, reader: Reader<T>): Outcome | Outside {
  const worked = (node: Typed) => evaluatorOf(node)(at, reader.given, reader.beneath);
  const verdict = rule.appliesWhen ? worked(rule.appliesWhen) : true;
  if (verdict === OUTSIDE) return OUTSIDE;
  if (verdict instanceof Failure) return { error: verdict.code };
  const value = verdict === true ? worked(rule.value) : rule.otherwise ? worked(rule.otherwise) : null;
  if (value === OUTSIDE) return OUTSIDE;
  if (value instanceof Failure) return { error: value.code };
  return writtenFrom(rule, value);
}
