import type { LinkRef } from '@/core/model';
import type {
  Accumulator,
  CompiledCreate,
  ReactingCascade,
  CompiledLinked,
  CompiledRule,
} from '@/core/rules';
import type { Outcome, Value } from '@/core/values';
import type { SetAnswers, SetNeed } from './set-need';
import type { CellRef, MadeFor, RecordRef, Row, Change } from './record';
import type { Later, Proposed, RecordEvent, Withdrawn } from './ripple';

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
  readonly rule: CompiledRule;
  readonly targets: RecordSet;
}

/** A target whose kept value, or what is kept to work it out by difference, isn't what stands there now. */
export interface WorkedOut {
  readonly rule: CompiledRule;
  readonly id: string;
  readonly before: Outcome;
  readonly after: Outcome;
  /** For rules that can be kept by difference; `null` for others. */
  readonly accumulator: Accumulator | null;
  /** For rules that react: the row of its map that holds now. `after` is what it makes of that. */
  readonly row?: number;
  /** For rules that are kept by their leader, where the driver keeps it: which child leads. */
  readonly leader?: string | null;
}

/** What a rule's value is made of, as it stands after the write. */
export interface KeptAccumulator {
  readonly rule: string;
  readonly field: string;
  readonly accumulator: Accumulator;
}

/** Which child leads, of a rule that is kept by its leader, as it stands after the write; `null` where that isn't known. */
export interface KeptExtremum {
  readonly field: string;
  readonly leader: string | null;
}

/** The row of its map that a rule which reacts is at, as it stands after the write. */
export interface KeptRow {
  readonly rule: string;
  readonly field: string;
  readonly row: number;
}

/** What of one record is written, and in which wave. Field changes carry their own causes. */
export interface Write extends RecordRef {
  readonly kind: 'create' | 'edit' | 'delete' | 'restore';
  readonly wave: number;
  readonly changes: readonly Change[];
  readonly events: readonly RecordEvent[];
  /** For a deletion: the record whose deletion took this one along; itself where it was asked for. */
  readonly deletedWith?: RecordRef;
  readonly accumulators?: readonly KeptAccumulator[];
  readonly rows?: readonly KeptRow[];
  readonly leaders?: readonly KeptExtremum[];
  /** For a record that is made for another: by which rule, and for which. */
  readonly madeFor?: MadeFor;
}

/** A record that a rule made for another, which may be in the bin by now. */
export interface Made {
  readonly source: string;
  readonly made: string;
  /** It is in the bin because of the other: its rule put it there, or the making was undone. */
  readonly isTakenBack: boolean;
}

/** What a deletion took along: records that went into the bin with it, and links that were cleared. */
export interface DeletionMembers {
  readonly records: readonly (RecordRef & { readonly with: RecordRef })[];
  /** Links that named a record which went, with that record. */
  readonly cleared: readonly (CellRef & { readonly parent: RecordRef })[];
}

/**
 * What the engine asks of a driver. Reads see the writes handed over before them.
 *
 * - `lock`: claims are held until the run ends; a driver takes them in its one order, parents before children.
 * - `records`: the rows of a set; deleted ones included.
 * - `above`: the rows of a set and all that lies above them over a self link; deleted ones included.
 * - `related`: records, not deleted, whose link names one of the parents, each with the parent that it names.
 * - `everything`: all records of a type, not deleted.
 * - `deletionMembers`: what the deletion of each of these records, which are in the bin, took along.
 * - `accumulators`: what is kept for a rule beside its targets, as it stood before the run; left out where unknown.
 * - `leaders`: the child that leads for each target of a rule, as it stood before the run; left out where unknown.
 * - `holders`: records, not deleted, that have one of these values in a field.
 * - `serials`: so many numbers in a row for new records of a type, the first of them; `null` where they aren't known.
 * - `candidates`: of these records those whose link is empty although a rule finds several for it, with what it finds.
 * - `made`: the records that a rule made for these, or those for which it made these; also those in the bin.
 * - `propose`: writes that people must approve or be told of, and those that are open no more; kept with the run.
 * - `alone`: the run writes so many records that they aren't locked one by one: nobody else saves until it ends.
 * - `bulkCascade`: what sources cascade to all beneath them, written by the driver as a set, with its ledger.
 * - `fillMany`: rules that read what was written as a set, filled as a set too; those of a slower pace are left for it.
 * - `workOut`: rules over the same link, together; only targets that differ from what stands there come back.
 * - `takeLater`: these targets of a rule of a slower pace are worked out next: they wait no more.
 * - `later`: targets of rules of a slower pace that aren't what they would give now: noted for when their pace comes round.
 * - `set`: what a run over many asks; see `SetNeed`. Only a driver of such runs answers it.
 * - `write`: handed over; the driver may put off the I/O until a later need has to see it.
 */
export type Need =
  | { readonly kind: 'lock'; readonly claims: readonly Claim[] }
  | { readonly kind: 'records'; readonly set: RecordSet }
  | { readonly kind: 'above'; readonly set: RecordSet; readonly link: LinkRef }
  | {
      readonly kind: 'related';
      readonly parents: RecordSet;
      readonly link: LinkRef;
      /** More than so many aren't wanted one by one. */
      readonly most?: number;
    }
  | { readonly kind: 'everything'; readonly type: string }
  | { readonly kind: 'deletionMembers'; readonly roots: readonly RecordRef[] }
  | { readonly kind: 'accumulators'; readonly rule: CompiledRule; readonly targets: RecordSet }
  | { readonly kind: 'leaders'; readonly rule: CompiledRule; readonly targets: RecordSet }
  | {
      readonly kind: 'holders';
      readonly type: string;
      readonly field: string;
      readonly values: readonly Exclude<Value, null>[];
      /** Text is the same whatever its case. */
      readonly isFolded?: boolean;
    }
  | { readonly kind: 'serials'; readonly type: string; readonly field: string; readonly count: number }
  | {
      readonly kind: 'made';
      readonly rule: CompiledCreate;
      readonly by: 'source' | 'made';
      readonly ids: readonly string[];
    }
  | {
      readonly kind: 'propose';
      readonly proposals: readonly Proposed[];
      readonly withdrawn: readonly Withdrawn[];
    }
  | { readonly kind: 'candidates'; readonly rule: CompiledLinked; readonly targets: RecordSet }
  | {
      readonly kind: 'alone';
      readonly rule: CompiledRule;
      readonly sources: readonly string[];
      /** How many these reach, where that is known. */
      readonly records: number | null;
    }
  | { readonly kind: 'bulkCascade'; readonly parts: readonly BulkAssignment[]; readonly tellsTaken?: boolean }
  | {
      readonly kind: 'fillMany';
      readonly rules: readonly CompiledRule[];
      readonly leave: boolean;
      readonly entered: readonly CellRef[];
    }
  | { readonly kind: 'workOut'; readonly work: readonly Work[] }
  | ({ readonly kind: 'takeLater' } & Later)
  | { readonly kind: 'defer'; readonly later: readonly Later[] }
  | { readonly kind: 'set'; readonly need: SetNeed }
  | { readonly kind: 'write'; readonly writes: readonly Write[] };

/** What the sources of one part of a rule cascade, by their ids; `null` where one hands nothing on. */
export interface BulkAssignment {
  readonly rule: ReactingCascade;
  readonly given: ReadonlyMap<string, AssignedOnce | null>;
  /** Records that a person entered it on, in this run. */
  readonly except: readonly string[];
}

export interface AssignedOnce {
  readonly value: Value;
  /** What it would have given before the change. */
  readonly was: Value;
  readonly causes: readonly CellRef[];
}

interface Found {
  readonly rows: ReadonlyMap<string, Row>;
  /** Whether a record that isn't there doesn't exist (`true`), or may lie outside what is loaded. */
  readonly known: boolean;
}

export interface Answers {
  /** Whether all that was answered before is locked now, and is as it was answered. */
  lock: { readonly isAsRead: boolean };
  records: Found;
  above: Found;
  /** `isMore`: there are more than were wanted; then they may be left out. */
  related: {
    readonly set: RecordSet;
    readonly parentOf: ReadonlyMap<string, string>;
    readonly isMore?: boolean;
  };
  everything: RecordSet;
  made: readonly Made[];
  candidates: ReadonlyMap<string, readonly string[]>;
  propose: null;
  alone: null;
  /**
   * How many values each part wrote, and how many it would have written where something else comes first; and where they are wanted the records
   * that took each, which may have had it.
   */
  bulkCascade: {
    readonly counts: readonly number[];
    readonly overruled: readonly number[];
    readonly taken: readonly (readonly string[])[];
  };
  fillMany: readonly number[];
  deletionMembers: DeletionMembers;
  accumulators: ReadonlyMap<string, Accumulator>;
  leaders: ReadonlyMap<string, string>;
  holders: readonly Row[];
  serials: number | null;
  /** `outside`: targets whose value depends on records that aren't loaded. */
  workOut: {
    readonly changed: readonly WorkedOut[];
    readonly outside: readonly { readonly rule: CompiledRule; readonly id: string }[];
  };
  takeLater: null;
  defer: null;
  set: SetAnswers[SetNeed['kind']];
  write: null;
}

export type Answer = Answers[Need['kind']];

/** Asks a need from inside the engine, with the answer of the right shape. */
export function* ask<K extends Need['kind']>(
  need: Extract<Need, { kind: K }>,
): Generator<Need, Answers[K], Answer> {
  return (yield need) as Answers[K];
}

/** The same of what a run over many asks. */
export function* askSet<K extends SetNeed['kind']>(
  need: Extract<SetNeed, { kind: K }>,
): Generator<Need, SetAnswers[K], Answer> {
  return (yield { kind: 'set', need }) as SetAnswers[K];
}
