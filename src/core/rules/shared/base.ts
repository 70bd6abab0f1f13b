import type { Typed } from '@/core/expression';
import type { LinkRef } from '@/core/syntax/step';
import { type Pace, type Field, type Step } from '@/core/model';
import type { Rounding } from '@/core/values';
import type { CompiledLimits } from './result-pipeline';

/**
 * A draft is written and tried; a live rule holds for every record; a paused one stands still, and so do its values. A retired one is
 * out of the lists and of every check, kept with its history.
 */
export type RuleState = 'draft' | 'live' | 'paused' | 'retired';

/**
 * For which records a live rule runs while it is a pilot: chosen ones of the type that it is on, or those of a selection of that type.
 */
export type Pilot =
  | { readonly kind: 'records'; readonly ids: readonly string[] }
  | { readonly kind: 'selection'; readonly selection: string };

/**
 * One of two versions of a rule that run beside each other: the one that is tried, for the records of its pilot, and the one that stays live,
 * for all others. Each leaves the records of the other alone, with their values and their problems.
 */
export interface Half {
  /** For which records the one is tried. */
  readonly pilot: Pilot;
  /** Typed on the type whose field the rule writes: whether a record is of the pilot. Where it can't be told it isn't. */
  readonly within: Typed;
  /** Whether it is the version for all others. */
  readonly isOutside: boolean;
}

/** A field of a type, as something that rules read and write. */
export interface FieldRef {
  readonly type: string;
  readonly field: string;
}

/** A field that a rule reads, on the records reached by `path` from the record whose field it keeps. */
export interface Read extends FieldRef {
  readonly path: readonly Step[];
  /** A link of the records' type to itself, read on them and on all that lies above them over it. */
  readonly isAllUp?: boolean;
  /** Of the field that the rule itself keeps, where its pilot leaves it to people: no result of its own is read. */
  readonly isEntered?: boolean;
}

/** Records among which a rule finds some, wherever they are, and the fields that it finds them by, there and up their links. */
export interface FoundAmong {
  readonly type: string;
  /** What is read of each, by paths from it. */
  readonly reads: readonly Read[];
  /** A field of the record whose link is filled that must be the same as one of theirs; `null` where it is worked out from several. */
  readonly by: { readonly own: string; readonly other: string; readonly isFolded: boolean } | null;
}

/** Rates that a rule looks up, wherever they are: those into certain currencies. */
export interface RatesRead {
  readonly type: string;
  readonly pair: string;
  /** Keys of the fields of a rate. */
  readonly fields: readonly string[];
  readonly into: readonly string[];
}

/** Whether a rule reads a field, on records that its paths lead to or as a rate. */
export const readsField = (
  { reads, rates, among }: Pick<CompiledBase, 'reads' | 'rates' | 'among'>,
  { type, field }: FieldRef,
): boolean =>
  reads.some((read) => read.type === type && read.field === field) ||
  among?.reads.some((read) => read.type === type && read.field === field) === true ||
  (rates?.type === type && rates.fields.includes(field));

/** What every rule has once it is checked and typed, of whatever kind. */
export interface CompiledBase {
  readonly id: string;
  readonly version: string;
  readonly name: string;
  readonly writes: FieldRef;
  readonly target: Field;
  readonly rounding: Rounding | null;
  readonly limits: CompiledLimits | null;
  readonly reads: readonly Read[];
  /** The rates of currencies that it looks up; `null` where it looks up none. */
  readonly rates: RatesRead | null;
  /** The records among which it finds some; left out where it finds none. */
  readonly among?: FoundAmong;
  readonly pace: Pace;
  /** How it reads its own target further down; `null` where it doesn't. */
  readonly recursion: Recursion | null;
  /** For which records it runs, as a pilot; left out where for all. */
  readonly pilot?: Pilot;
  /** Which records are its own, where two versions of it run beside each other; left out where it runs alone. */
  readonly half?: Half;
}

/** How a rule goes all the way down: over a self link, or down to a bridge and up its other link. */
export interface Recursion {
  readonly down: LinkRef;
  readonly up: string | null;
}
