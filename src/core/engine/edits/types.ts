import type { Problem, Value } from '@/core/values';
import type { CellRef, MadeFor, RecordRef } from '@/core/engine/driver/record';
import type { Touched } from '@/core/engine/driver/record';

/** One thing that a person wants done to one record. Values are typed; a value of `null` makes a field empty. */
export type Edit =
  | {
      readonly kind: 'create';
      readonly type: string;
      readonly id: string;
      readonly values: Readonly<Record<string, Value>>;
      /** Fields among them that nobody entered: their defaults stand. */
      readonly defaults?: readonly string[];
      /** A person makes what a rule makes for a record: as it was proposed, or by the rule's button. */
      readonly madeFor?: MadeFor;
    }
  | {
      readonly kind: 'edit';
      readonly type: string;
      readonly id: string;
      /** The version that the person saw; left out, the edit doesn't ask. */
      readonly version?: number;
      readonly values: Readonly<Record<string, Value>>;
    }
  /** Into the bin, with what the link policies take along. */
  | { readonly kind: 'delete'; readonly type: string; readonly id: string; readonly version?: number }
  /** Out of the bin, with what that deletion took along. */
  | { readonly kind: 'restore'; readonly type: string; readonly id: string; readonly version?: number };

/** An edit as it travels; `values` hold wire values. A create without an id gets one. */
export interface WireEdit {
  readonly kind: 'create' | 'edit' | 'delete' | 'restore';
  readonly type: string;
  readonly id?: string;
  readonly version?: number;
  readonly values?: Readonly<Record<string, unknown>>;
  /** Of a create: the rule by which it is made, and the record for which. */
  readonly madeFor?: MadeFor;
}

/** A problem of one edit: `index` is its place in what was sent. */
export interface EditProblem extends Problem {
  readonly index: number;
}

/** A record that the edits touch, directly or by a link policy, before any rule is worked out. */
export interface Entry extends Touched {
  /** The edit that it follows from. */
  readonly index: number;
  readonly kind: 'create' | 'edit' | 'delete' | 'restore';
  /** For what nobody entered: the record whose deletion or restoration it follows from. Keys are fields, `''` the record. */
  readonly causes: ReadonlyMap<string, CellRef>;
  /** For a deletion: the record whose deletion takes this one along; itself where it was asked for. */
  readonly deletedWith: RecordRef | null;
  /** Made in place of a rule, for another record. */
  readonly madeFor?: MadeFor;
}
