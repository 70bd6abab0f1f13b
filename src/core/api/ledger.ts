/** What the JSON API answers about runs and what undoing them would do. */

import type { StorageStep } from '@/core/model';
import type { Problem } from '@/core/values';
import type { RippleGroup } from '@/core/verify/explain/ripple-groups';
import type { ChangeView, LeftView, RippleView, ValueView } from '@/core/verify/explain/views';
import type { HistoryEntry } from './records';
import type { ImportEffect } from './imports';
/** A run in the ledger's list. */
export interface RunHead {
  readonly run: string;
  readonly at: string;
  readonly kind: HistoryEntry['kind'];
  readonly person: string | null;
  readonly note: string;
}

export interface RunList {
  readonly runs: readonly (RunHead & {
    /** Records that it changed, counted exactly. */
    readonly changed: { readonly number: number; readonly isExact: boolean };
  })[];
  /** Where the next page goes on; `null` on the last. */
  readonly next: string | null;
}

/** How many records a run did something to: by whom or which rule, and of which type. A record counts once for each that wrote it. */
export interface RunCount {
  readonly type: string;
  readonly typeName: string;
  readonly plural: string;
  readonly kind: 'created' | 'changed' | 'deleted' | 'restored';
  /** `null`: a person entered it, or it went or came along with another. */
  readonly rule: { readonly id: string; readonly name: string } | null;
  readonly records: number;
}

/** A run with its ripple. */
export interface RunView extends RunHead {
  /** Counted exactly, whatever its size; with the first page only. */
  readonly counts: readonly RunCount[] | null;
  readonly waves: RippleView['waves'];
  /** Where the run goes on, page by page: `null` when this is the last. */
  readonly next: string | null;
}

/** What rules looked at in a run and left, and why; worked out by the ledger, and by the rules that were live then. */
export interface RunLeft {
  readonly left: readonly LeftView[];
  /** Names of rules of then that don't fit the model of now: of them it isn't told. */
  readonly unfit: readonly string[];
  /** Why nothing can be told; `null` where it is. */
  readonly untold: string | null;
}

/** What a run changed, summed up by what is alike in it. */
export interface RunGroups {
  /** Wave by wave; in each first the records that were made, deleted or restored, and of each the most records first. */
  readonly groups: readonly RippleGroup[];
}

/** Changes of a group, record by record. */
export interface GroupPage {
  readonly changes: readonly ChangeView[];
  /** Where the next page goes on; `null` on the last. */
  readonly next: string | null;
}

/** What undoing a run does, or would do; the same whatever its size. */
export interface UndoView {
  readonly run: string;
  /** The run that undid it; `null` before. */
  readonly undoneBy: string | null;
  /** Values that are written back, by field; with some of them. */
  readonly written: readonly UndoneField[];
  /** Records that the run made, or brought back, and that go into the bin; records that it deleted, and that come back. */
  readonly records: readonly UndoneRecords[];
  /** What rules that keep a field work out after it. */
  readonly effects: readonly ImportEffect[];
  /** How much stays as it is: values, and records. */
  readonly leftCount: number;
  /** What stays, the first of it, and why. */
  readonly left: readonly LeftByUndo[];
  /** Messages to people that had been sent, which nothing takes back. */
  readonly messagesSent: number;
}

export interface UndoneField extends Omit<ImportEffect, 'rule' | 'fieldName'> {
  readonly fieldName: string;
}

export interface UndoneRecords {
  readonly kind: 'deleted' | 'restored';
  readonly type: string;
  readonly typeName: string;
  readonly records: number;
  readonly samples: readonly { readonly id: string; readonly title: string }[];
}

/** A value, or a record, that an undo leaves as it is. */
export interface LeftByUndo {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /** `null` for the record itself. */
  readonly fieldName: string | null;
  /** What stood there before the run, what the run left, and what stands there now; `null` where that can't be told. */
  readonly before: ValueView | null;
  readonly after: ValueView | null;
  readonly current: ValueView | null;
  readonly reason: string;
}

/** What one step of a change of the model does to what is stored. */
export interface StepView {
  readonly kind: StorageStep['kind'];
  readonly type: string;
  readonly typeName: string;
  /** Of a field; `null` for a whole type. */
  readonly field: string | null;
  readonly name: string;
  /** Records, or values of the field, that it concerns. */
  readonly stored: number;
  /** Of these: rounded, replaced or filled; and emptied for good. */
  readonly altered: number;
  readonly lost: number;
  /** The most frequent values that come out otherwise. */
  readonly samples: readonly { readonly before: string; readonly after: string; readonly records: number }[];
  /** Why it can't be done as it is; `null` where it can. */
  readonly refusal: Problem | null;
}
