import type { StepDown } from '@/core/model';
import type { Expression } from '@/core/syntax/expression';
import { prefixed } from '@/core/expression/prefixed';

/** Where names are read: on records of a type; within a list, on its records, from which `back` leads up to those around. */
export interface Place {
  readonly type: string;
  readonly around?: { readonly place: Place; readonly back: readonly string[] | null };
  readonly locals: ReadonlyMap<string, Place>;
}

export interface RecordAt {
  readonly is: 'record';
  /** The type at the end of the route. */
  readonly type: string;
  readonly route: readonly string[];
}

export interface ListAt {
  readonly is: 'list';
  readonly up: readonly string[];
  readonly down: readonly StepDown[];
  readonly member: string;
  readonly condition: Expression | null;
  /** Links up from its records, to those that are meant. */
  readonly onward: readonly string[];
  readonly value: Expression | null;
}

interface ValueAt {
  readonly is: 'value';
  readonly expression: Expression;
}

export type Found = RecordAt | ListAt | ValueAt;

/** What was found around a list, as it is read from within it. */
export function fromInside(found: Found, back: readonly string[]): Found {
  if (found.is === 'record') return { ...found, route: [...back, ...found.route] };
  if (found.is === 'value') return { is: 'value', expression: prefixed(found.expression, back) };
  return { ...found, up: [...back, ...found.up] };
}
