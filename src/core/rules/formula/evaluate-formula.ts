import { evaluatorOf, Failure, OUTSIDE, type Outside, type Typed } from '@/core/expression';
import { isError, type Outcome } from '@/core/values';
import type { Reader } from '@/core/rules/roll-up/member-gives';
import type { CompiledFormula } from './formula';
import type { KeptCascade } from '@/core/rules/cascade/cascade';
import { writtenFrom } from '@/core/rules/shared/result-pipeline';

/**
 * The value of a formula, or of what is kept in step, on a record, rounded and fitted to its target. Where what is kept in step doesn't apply
 * it claims nothing, nor does a formula in pilot elsewhere: what stands there stands (`stored`), but for an error of its own, which goes.
 */
export function formulaOutcome<T>(
  rule: CompiledFormula | KeptCascade,
  at: T,
  reader: Reader<T>,
  stored: Outcome = { value: null },
): Outcome | Outside {
  const worked = (node: Typed) => evaluatorOf(node)(at, reader.given, reader.beneath);
  const claimed = rule.kind === 'formula' && rule.claims ? worked(rule.claims) : true;
  if (claimed === OUTSIDE) return OUTSIDE;
  if (claimed !== true) return isError(stored) ? { value: null } : stored;
  const verdict = rule.appliesWhen ? worked(rule.appliesWhen) : true;
  if (verdict === OUTSIDE) return OUTSIDE;
  if (verdict instanceof Failure) return { error: verdict.code };
  if (rule.kind === 'keptCascade' && verdict !== true) return isError(stored) ? { value: null } : stored;
  const value = verdict === true ? worked(rule.value) : rule.otherwise ? worked(rule.otherwise) : null;
  if (value === OUTSIDE) return OUTSIDE;
  if (value instanceof Failure) return { error: value.code };
  return writtenFrom(rule, value);
}
