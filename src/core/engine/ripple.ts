import type { ErrorCode, Value } from '../values';
import type { CellRef, RecordRef } from './record';

/** A field that a run changes: once at most for each record and run. Wave 0 is what was edited. */
export interface Change extends CellRef {
  readonly before: Value;
  readonly after: Value;
  /** Set where a kept value can't be worked out: the field is then empty. */
  readonly error: ErrorCode | null;
  readonly errorBefore: ErrorCode | null;
  readonly wave: number;
  /** The rule that wrote it; `null` for an edit. */
  readonly rule: string | null;
  /** The changes that it follows from; a record that was made or deleted is named with the field `''`. */
  readonly causes: readonly CellRef[];
}

/** A record that a run makes, deletes or restores; `causes` names the record with which it went or came back. */
export interface RecordEvent extends RecordRef {
  readonly kind: 'created' | 'deleted' | 'restored';
  readonly wave: number;
  readonly causes: readonly CellRef[];
}

/** A kept value that nothing can be said about, because it depends on records that aren't loaded. */
export interface OutsideTarget extends CellRef {
  readonly rule: string;
}

/** A rule that reacts would have written here, but what was entered in the same run stands. */
export interface Overruled extends CellRef {
  readonly rule: string;
  readonly value: Value;
}

/** Targets of a rule of a slower pace that a run leaves behind what they are made of. */
export interface Later {
  readonly rule: string;
  readonly type: string;
  readonly ids: readonly string[];
}

/** Values that were written as a set: so many that they aren't told one by one. */
export interface WrittenMany extends Pick<CellRef, 'type' | 'field'> {
  readonly rule: string;
  readonly records: number;
}

/** All that follows from a set of edits, and what it cost. */
export interface Ripple {
  readonly events: readonly RecordEvent[];
  readonly changes: readonly Change[];
  readonly outside: readonly OutsideTarget[];
  readonly overruled: readonly Overruled[];
  readonly later: readonly Later[];
  readonly many: readonly WrittenMany[];
  /** Records worked out or written, and needs asked. */
  readonly cost: { readonly records: number; readonly needs: number };
}
