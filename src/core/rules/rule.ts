import type { Field, Pace, Step } from '../model';
import type { Rounding } from '../values';
import type { CompiledFormula, Formula } from './formula';
import type { CompiledRollUp, Recursion, RollUp } from './roll-up';
import type { CompiledLimits } from './written';

/** A statement about records that Oikon keeps. One member for each kind of rule. */
export type RuleDefinition = RollUp | Formula;

/** Whether a rule, as it is written, reacts to a change of its result: its table leaves its target as it is otherwise. */
export const reacts = (definition: RuleDefinition): boolean =>
  definition.kind === 'rollUp' && definition.map?.otherwise.kind === 'asItIs';

/** A draft is written and tried; a live rule holds for every record; a paused one stands still, and so do its values. */
export type RuleState = 'draft' | 'live' | 'paused';

/** A version of a rule together with what names it: what the plan is built from. */
export interface Rule<D extends RuleDefinition = RuleDefinition> {
  readonly id: string;
  /** Id of the immutable version whose definition this is. */
  readonly version: string;
  readonly name: string;
  readonly definition: D;
}

/** A field of a type, as something that rules read and write. */
export interface FieldRef {
  readonly type: string;
  readonly field: string;
}

/** A field that a rule reads, on the records reached by `path` from the record whose field it keeps. */
export interface Read extends FieldRef {
  readonly path: readonly Step[];
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
  { reads, rates }: Pick<CompiledBase, 'reads' | 'rates'>,
  { type, field }: FieldRef,
): boolean =>
  reads.some((read) => read.type === type && read.field === field) ||
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
  readonly pace: Pace;
  /** How it reads its own target further down; `null` where it doesn't. */
  readonly recursion: Recursion | null;
}

/** A rule that has been checked and typed: what the evaluator, SQL and the engine work from. */
export type CompiledRule = CompiledRollUp | CompiledFormula;
