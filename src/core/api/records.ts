/** What the JSON API answers about records, lists of them and their history. */

import type { Field, SavedListDefinition } from '@/core/model';
import type { WireRecord } from '@/core/verify/family/family';
import type { MadeByView, MakerView } from './proposals';
import type { RippleView, RuleName, ValueView } from '@/core/verify/explain/views';

export interface RecordList {
  readonly records: readonly WireRecord[];
  /** How many there are, up to a limit (then not exact); only with the first page. */
  readonly count: { readonly number: number; readonly isExact: boolean } | null;
  /** Where the next page goes on; `null` on the last. */
  readonly next: string | null;
  /** Titles of the records and people that they name. */
  readonly names: Readonly<Record<string, string>>;
  /** By record: fields that a rule of a slower pace keeps and that aren't up to date, with the moment that they are of. */
  readonly asOf: Readonly<Record<string, Readonly<Record<string, string>>>>;
}

export interface RecordView {
  readonly record: WireRecord;
  /** What it hangs under, the topmost first: over a link to its own type, else over the first link that it has. */
  readonly path: readonly { readonly type: string; readonly id: string; readonly title: string }[];
  readonly names: Readonly<Record<string, string>>;
  /** Fields that a rule of a slower pace keeps and that aren't up to date, with the moment that they are of. */
  readonly asOf: Readonly<Record<string, string>>;
  /** Fields that a rule keeps in step on this record, and so aren't entered here. */
  readonly claimed: readonly string[];
  /** What a person may have made for it by rules. */
  readonly makers: readonly MakerView[];
  /** The rules that made it, each with the record for which. */
  readonly madeBy: readonly MadeByView[];
  /** Of a record in the bin: who deleted it and when, and the record with which it went. */
  readonly deletion: {
    readonly run: string;
    readonly at: string;
    readonly person: string | null;
    readonly with: { readonly type: string; readonly id: string; readonly title: string } | null;
  } | null;
}

/** A saved run: its number (`null` when nothing changed) and what followed. */
export interface SavedRun {
  readonly run: string | null;
  readonly ripple: RippleView;
}

/** A run in a record's history: who or which rule changed what, when, and what it followed from. */
export interface HistoryEntry {
  readonly run: string;
  readonly at: string;
  readonly kind: 'save' | 'load' | 'import' | 'listEdit' | 'live' | 'pause' | 'model' | 'day' | 'pace';
  readonly event: 'created' | 'changed' | 'deleted' | 'restored';
  readonly person: string | null;
  readonly note: string;
  /** The rule that made, deleted or restored it, and for which record. */
  readonly rule: RuleName | null;
  readonly causes: readonly string[];
  readonly changes: readonly {
    readonly field: Field['key'];
    readonly fieldName: string;
    readonly before: ValueView;
    readonly after: ValueView;
    readonly rule: RuleName | null;
    /** In words: `Insured value of Kestrel Museum, court robes`. */
    readonly causes: readonly string[];
  }[];
}

/** A record that a search over everything found. */
export interface FoundRecord {
  readonly type: string;
  readonly typeName: string;
  readonly id: string;
  readonly title: string;
}

/** Runs that changed a record, the latest first. */
export interface History {
  readonly entries: readonly HistoryEntry[];
  /** The run before which earlier ones are asked for; `null` when these are the last. */
  readonly next: string | null;
}

export interface SavedListView {
  readonly id: string;
  readonly name: string;
  readonly definition: SavedListDefinition;
  readonly version: number;
}

/** A rule by which other records may change when one does. */
export interface DependantView {
  readonly rule: RuleName;
  readonly type: string;
  readonly typeName: string;
  readonly field: string;
  readonly fieldName: string;
  readonly count: number;
  readonly targets: readonly { readonly id: string; readonly title: string }[];
}

/** Records of one type that a workspace and a bundle don't have alike. */
export interface RecordDifference {
  /** Tells it from all others: `loan changed`. */
  readonly id: string;
  readonly type: string;
  /** What one of them is called, and several. */
  readonly name: string;
  readonly plural: string;
  /** Only the bundle has them; both, otherwise; only the workspace. */
  readonly kind: 'new' | 'changed' | 'gone';
  readonly records: number;
  /** Titles of the first of them. */
  readonly titles: readonly string[];
}

/** A save that a person put off, since very many records follow from it. */
export interface QueuedSaveView {
  readonly id: string;
  readonly person: string;
  readonly at: string;
  readonly note: string;
  /** How many records it edits. */
  readonly edits: number;
  /** The first of them, and its fields that change. */
  readonly record: {
    readonly type: string;
    readonly id: string;
    readonly title: string;
    readonly fieldNames: readonly string[];
  };
  /** Why it was refused; `null` while it waits for its turn. */
  readonly problem: string | null;
}
