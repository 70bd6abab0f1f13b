import type { Failure } from '@/core/expression';
import {
  evaluatorOf,
  fieldsRead,
  type Outside,
  type RunContext,
  type Typed,
  type TypedField,
} from '@/core/expression';
import type { Field, Model } from '@/core/model';
import { type AssigningRun, type ReactingCascade } from '@/core/rules';
import { sameValue } from '@/core/values';
import type { Touched } from '@/core/engine/driver/record';
import { type WorkedOut } from '@/core/engine/driver/need';
import { type CellRef, type Row } from '@/core/engine/driver/record';
import type { Overruled } from '@/core/engine/driver/ripple';
import type { RouteReader } from '@/core/engine/reach/route-reader';
import { type RowsOf } from '@/core/engine/reach/route-reader';

export interface CascadeInput {
  readonly model: Model;
  readonly rule: ReactingCascade;
  /** What the run has touched so far, by `recordKey`. */
  readonly touched: ReadonlyMap<string, Touched>;
  readonly rowsOf: RowsOf;
  /** Who makes the run's change, and when. */
  readonly facts: RunContext | null;
  /** Ids of records that have had their turn in this run: of those on change that cascade, of those at creation that take. */
  readonly acted?: ReadonlySet<string>;
  /** Most records that take something one by one, where more can be written as a set; `null` for all. Those of `BOUNDS` where it is left out. */
  readonly mostByRow?: number | null;
  /** More than so many are left to a run over many, whatever way leads to them. */
  readonly isLeavingMany?: boolean;
}

/** A record that hands its values on to another in a run, and what that follows from. */
export interface CascadeSource {
  readonly source: Row;
  /** As the source was before the run; itself where it was just made. */
  readonly before: Row;
  /** As what the target hung under before gave it; `null` where there was none. Of a record that was attached or moved. */
  readonly former?: Row | null;
  readonly causes: readonly CellRef[];
  /** The record across which it was reached, where the rule reads it: of several the first that was made. */
  readonly via?: Row;
}

/** By the id of the record that takes the values. */
export type Recipients = ReadonlyMap<string, readonly CascadeSource[]>;

export interface CascadeOutcome {
  readonly changed: readonly WorkedOut[];
  readonly causes: ReadonlyMap<string, readonly CellRef[]>;
  readonly overruled: readonly Overruled[];
  /** Targets of which not all that is read is loaded. */
  readonly outside: readonly string[];
  /** The first record on which it couldn't be told what to do, by its id. */
  readonly failed: string | null;
}

/** Whether two records have the same in some fields; what is empty isn't the same as anything. */
export const haveSame = (fields: readonly Field[], one: Row, other: Row): boolean =>
  fields.every(({ key }) => {
    const [a, b] = [one.values[key] ?? null, other.values[key] ?? null];
    return a !== null && b !== null && sameValue(a, b);
  });

export const worked = (node: Typed, row: Row, reader: RouteReader) => evaluatorOf(node)(row, reader.read);

export const verdictOf = (node: Typed | null, row: Row, reader: RouteReader) =>
  node === null ? true : (worked(node, row, reader) as boolean | Outside | Failure);

/** Fields that are read on the records that cascade. */
export function readOnSource({ value, given, order, moment, via }: ReactingCascade): TypedField[] {
  const parts =
    value.kind === 'worked' ? [value.value] : value.parts.filter((part) => typeof part !== 'string');
  const where = moment.kind === 'onChange' ? moment.where : null;
  return [
    ...parts.filter((part) => part.kind !== 'field' || part.from !== via),
    given,
    order?.field ?? null,
    where,
  ].flatMap((node) => (node ? fieldsRead(node) : []));
}

/** Fields that are read on the records across which it goes. */
export const readOnVia = ({ value, via }: ReactingCascade): TypedField[] =>
  via === null || value.kind === 'worked'
    ? []
    : value.parts.flatMap((part) => (typeof part !== 'string' && part.from === via ? [part] : []));

/** What a record that cascades is worked out on. */
export const assigningOf = (
  { via }: ReactingCascade,
  pair: CascadeSource,
  facts: RunContext | null,
): AssigningRun<Row> => ({
  ...{ now: pair.source, before: pair.before, facts },
  via: via !== null && pair.via ? { type: via, at: pair.via } : null,
});
