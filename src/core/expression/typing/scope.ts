import type { Model } from '@/core/model';
import type { Problem, Result, ValueType } from '@/core/values';
import type { Expression, RunReading, Typed } from '@/core/syntax/expression';

/** Where an expression is read: on records of a type. */
export interface Scope {
  readonly model: Model;
  readonly type: string;
  /** Selections that are being typed: none may come round to itself. */
  readonly within?: readonly string[];
  /** Who makes the change, and when, may be read: by what reacts; or who looks. */
  readonly usesRunContext?: RunReading;
  /** Only the record at hand and those up its links can be read, none beneath. */
  readonly isAlone?: boolean;
}

export type Place = readonly (string | number)[];

export type TypeNode = (
  scope: Scope,
  node: Expression,
  place: Place,
  wanted: ValueType | null,
) => Result<Typed>;

/** A problem gets the place at which it was found first. */
export const at = <T>(place: Place, result: Result<T>): Result<T> => {
  if (result.ok || result.problem.place !== undefined) return result;
  const problem: Problem = { ...result.problem, place: place.join('.') };
  return { ok: false, problem };
};
