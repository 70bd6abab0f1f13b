import type { ErrorCode, Value } from '@/core/values';
import type { Typed, TypedExchange, TypedField, TypedGather } from '@/core/syntax/expression';

/** The value stands in a record that isn't loaded: nothing can be said about it. */
export const OUTSIDE = Symbol('outside this family');
export type Outside = typeof OUTSIDE;

/** What can't be worked out, with the code of the problem. */
export class Failure {
  static readonly #all = new Map<ErrorCode, Failure>();
  private constructor(readonly code: ErrorCode) {}

  /** One for each code, so that working something out makes nothing anew. */
  static of(code: ErrorCode): Failure {
    let known = Failure.#all.get(code);
    if (!known) Failure.#all.set(code, (known = new Failure(code)));
    return known;
  }
}

/** What an expression comes to. */
export type Worked = Value | Outside | Failure;

/** Gives the value of a field of the record at hand, or up a route from it; a broken route reads as empty. */
export type ReadField = (field: TypedField) => Worked;

/** The same for any record: the one at hand is handed in, so that reading many of them makes nothing anew. */
export type ReadOf<T> = (at: T, field: TypedField) => Worked;

/** The rate of a pair of currencies that counts for a day: of that day, or the last one before it that still counts. */
export interface RateWanted {
  readonly kind: 'rate';
  readonly node: TypedExchange;
  readonly pair: string;
  readonly day: string;
}

/** Gives the records that are gathered beneath the record at hand; of a rate that is wanted the one that counts, or none. */
export type Beneath<T> = (at: T, node: TypedGather | RateWanted) => readonly T[] | Outside;

/** An expression made ready for many records. */
export type Evaluator = <T>(at: T, read: ReadOf<T>, beneath?: Beneath<T>) => Worked;

/** What can't be gone on with: it lies outside, or can't be worked out. */
export const isNothingKnown = (worked: Worked): worked is Outside | Failure =>
  worked === OUTSIDE || worked instanceof Failure;

/** Makes a part of an expression ready. */
export type MakeReady = (node: Typed) => Evaluator;
