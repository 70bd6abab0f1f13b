import { fieldsRead, readsRun, type Typed } from '@/core/expression';
import { type Field } from '@/core/model';
import { conversion, sameValue, type Value } from '@/core/values';
import type { CompiledAssignedValue } from '@/core/rules/cascade/cascade';
import {
  type CompiledAssigned,
  type CompiledCreate,
  type CompiledExecutionMode,
  type ExecutionMode,
  isAtOnce,
} from './create';
import type { AnyCompiled } from '@/core/rules/rule';

/** What a value that is assigned is worked out from. */
export const partsIn = (value: CompiledAssignedValue): readonly Typed[] =>
  value.kind === 'worked' ? [value.value] : value.parts.filter((part) => typeof part !== 'string');

export const isExact = (from: Field, into: Field): boolean =>
  from.type.kind === into.type.kind &&
  conversion(from.type, into.type) !== null &&
  JSON.stringify({ ...from.type, unit: null }) === JSON.stringify({ ...into.type, unit: null });

/** Whether what a rule does hangs on who makes the change, or when. */
export function usesRunContext(rule: AnyCompiled): boolean {
  if (rule.kind === 'create')
    return [...rule.assigned, ...rule.given].some(({ value }) => partsIn(value).some(readsRun));
  if (rule.kind !== 'reactingCascade') return false;
  const where = rule.moment.kind === 'onChange' ? rule.moment.where : null;
  return [...partsIn(rule.value), ...(where ? [where] : [])].some(readsRun);
}

/** Fields that are read to work out what is assigned. */
export const assignedReads = (assigned: readonly CompiledAssigned[]) =>
  assigned.flatMap(({ value, given }) => [...partsIn(value), ...(given ? [given] : [])].flatMap(fieldsRead));

/** The way that a record's option gives. */
export function executionModeOf(
  { field, rows, otherwise }: CompiledExecutionMode,
  values: Readonly<Record<string, Value>>,
): ExecutionMode {
  if (!field) return otherwise;
  const value = values[field.key] ?? null;
  return rows.find(({ from }) => sameValue(from, value))?.way ?? otherwise;
}

/**
 * Whether people can't enter a field of what was made: changes of the record with these values follow at once, and what is entered there
 * can't go back.
 */
export const isHeld = (
  { following, returning }: CompiledCreate,
  { returnsTo }: CompiledAssigned,
  values: Readonly<Record<string, Value>>,
): boolean =>
  isAtOnce(executionModeOf(following, values)) &&
  (returnsTo === null || executionModeOf(returning, values) === 'not');
