import type { CompiledLinked } from '@/core/rules';
import type { Value } from '@/core/values';
import type { CellRef, Change, RecordRef } from '@/core/engine/driver/record';

/** A record that a run makes, deletes or restores; `causes` names the record with which it went or came back. */
export interface RecordEvent extends RecordRef {
  readonly kind: 'created' | 'deleted' | 'restored';
  readonly wave: number;
  readonly causes: readonly CellRef[];
  /** The rule that did it; left out where an edit or a link policy did. */
  readonly rule?: string;
}

/** A kept value that nothing can be said about, because it depends on records that aren't loaded. */
export interface OutsideTarget extends CellRef {
  readonly rule: string;
}

/** A rule that reacts would have written here, but what was entered in the same run stands, or what came first. */
export interface Overruled extends CellRef {
  readonly rule: string;
  readonly value: Value;
  /** The rule that came first; the same rule where it came from another record. Left out where something was entered. */
  readonly by?: string;
  /** The other way round: the rule wrote, over this value that was entered, since both of its sides changed. */
  readonly isEntered?: boolean;
}

/** A required field that nothing gives, one whose value can't stand, or a link that may name several. */
export interface Missing {
  readonly field: string;
  readonly reason: 'empty' | 'taken' | 'several';
  /** The records that it may name. */
  readonly candidates?: readonly string[];
}

/** What a rule prepared for a person to approve, or to be told of. */
export interface Proposed {
  readonly rule: string;
  readonly kind: 'make' | 'follow' | 'return' | 'choose';
  /** The record for which it makes others, or whose link it fills. */
  readonly source: RecordRef;
  /** What would be written to; `null` where it would be made. */
  readonly target: RecordRef | null;
  /** The type of what would be made or written to. */
  readonly type: string;
  readonly values: Readonly<Record<string, Value>>;
  readonly missing: readonly Missing[];
  /** It is done already; people are only told. */
  readonly isDone: boolean;
  readonly wave: number;
  readonly causes: readonly CellRef[];
}

/** A person is asked which of several a link should name. */
export const whichOf = (
  { id: rule, writes: { type, field } }: Pick<CompiledLinked, 'id' | 'writes'>,
  id: string,
  candidates: readonly string[],
  { causes, wave }: Pick<Proposed, 'causes' | 'wave'>,
): Proposed => ({
  ...{ rule, kind: 'choose', source: { type, id }, target: { type, id }, type, isDone: false },
  ...{ values: { [field]: null }, missing: [{ field, reason: 'several', candidates }], causes, wave },
});

/** What a rule proposed for a record is open no more. */
export interface Withdrawn {
  readonly rule: string;
  readonly source: string;
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
  /** How many more it would have written where something else came first; left out where there are none. */
  readonly overruled?: number;
}

/** A rule that reacts acted in a circle because of something that no longer stands at the end of the run. */
export interface Lapsed extends RecordRef {
  readonly rule: string;
}

/** All that follows from a set of edits, and what it cost. */
export interface Ripple {
  readonly events: readonly RecordEvent[];
  readonly changes: readonly Change[];
  readonly outside: readonly OutsideTarget[];
  readonly overruled: readonly Overruled[];
  readonly lapsed: readonly Lapsed[];
  readonly later: readonly Later[];
  readonly many: readonly WrittenMany[];
  readonly proposals: readonly Proposed[];
  /** Records worked out or written, and needs asked. */
  readonly cost: { readonly records: number; readonly needs: number };
}
