import type { LinkRef } from '../model';
import type { CompiledRollUp } from '../rules';
import type { Outcome } from '../values';
import type { Change, RecordEvent } from './ripple';
import type { RecordRef, Row } from './record';

/**
 * Records of one type, handed to and fro between the engine and its driver. In row mode these are ids; a driver of large
 * runs may add a kind that stands for a table of its own, which the engine passes on without looking inside.
 */
export type RecordSet = { readonly kind: 'rows'; readonly type: string; readonly ids: readonly string[] };

export const rowSet = (type: string, ids: Iterable<string>): RecordSet => ({
  kind: 'rows',
  type,
  ids: [...new Set(ids)],
});

/** Records that a run will write, or whose fields or existence it relies on. */
export interface Claim extends RecordRef {
  readonly strength: 'write' | 'read';
}

/** A rule and the targets for which it is worked out. */
export interface Work {
  readonly rule: CompiledRollUp;
  readonly targets: RecordSet;
}

/** A target whose kept value isn't what stands there now. */
export interface WorkedOut {
  readonly rule: string;
  readonly id: string;
  readonly before: Outcome;
  readonly after: Outcome;
}

/** What of one record is written, and in which wave. Field changes carry their own causes. */
export interface Write extends RecordRef {
  readonly kind: 'create' | 'edit' | 'delete';
  readonly wave: number;
  readonly changes: readonly Change[];
  readonly events: readonly RecordEvent[];
}

/**
 * What the engine asks of a driver. Reads see the writes handed over before them.
 *
 * - `lock`: claims are held until the run ends; a driver takes them in its one order, parents before children.
 * - `records`: the rows of a set; deleted ones included.
 * - `related`: records, not deleted, whose link names one of the parents.
 * - `everything`: all records of a type, not deleted.
 * - `workOut`: rules over the same link, together; only targets that differ from what stands there come back.
 * - `write`: handed over; the driver may put off the I/O until a later need has to see it.
 */
export type Need =
  | { readonly kind: 'lock'; readonly claims: readonly Claim[] }
  | { readonly kind: 'records'; readonly set: RecordSet }
  | { readonly kind: 'related'; readonly parents: RecordSet; readonly link: LinkRef }
  | { readonly kind: 'everything'; readonly type: string }
  | { readonly kind: 'workOut'; readonly work: readonly Work[] }
  | { readonly kind: 'write'; readonly writes: readonly Write[] };

export interface Answers {
  lock: null;
  /** `known`: whether a record that isn't there doesn't exist (`true`), or may lie outside what is loaded. */
  records: { readonly rows: ReadonlyMap<string, Row>; readonly known: boolean };
  related: RecordSet;
  everything: RecordSet;
  /** `outside`: targets whose value depends on records that aren't loaded. */
  workOut: {
    readonly changed: readonly WorkedOut[];
    readonly outside: readonly { readonly rule: string; readonly id: string }[];
  };
  write: null;
}

export type Answer = Answers[Need['kind']];

/** Asks a need from inside the engine, with the answer of the right shape. */
export function* ask<K extends Need['kind']>(
  need: Extract<Need, { kind: K }>,
): Generator<Need, Answers[K], Answer> {
  return (yield need) as Answers[K];
}
