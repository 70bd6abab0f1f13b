import { arrive, type Field, type Model, type Pace, type Step } from '../model';
import type { Rounding } from '../values';
import type { Cascade, CompiledHandOn, CompiledInStep } from './cascade/cascade';
import type { CompiledCreate, Create } from './create/create';
import type { CompiledFormula, Formula } from './formula/formula';
import type { CompiledLinked, LinkRule } from './link/link-rule';
import type { CompiledRollUp, Recursion, RollUp } from './roll-up/roll-up';
import type { CompiledLimits } from './shared/result-pipeline';

/** A statement about records that Oikon keeps. One member for each kind of rule. */
export type RuleDefinition = RollUp | Formula | Cascade | Create | LinkRule;

/** Whether a rule, as it is written, acts on changes of a run, rather than keeping its field: its table leaves that as it is otherwise, or it hands on. */
export const reacts = (definition: RuleDefinition): boolean =>
  definition.kind === 'create' ||
  (definition.kind === 'cascade'
    ? definition.moment !== 'inStep'
    : definition.kind === 'rollUp' && definition.map?.otherwise.kind === 'asItIs');

/** A draft is written and tried; a live rule holds for every record; a paused one stands still, and so do its values. */
/** A retired one is out of the lists and of every check, kept with its history. */
export type RuleState = 'draft' | 'live' | 'paused' | 'retired';

/**
 * For which records a live rule runs while it is a pilot: chosen ones of the type that it is on, or those of a selection of that type.
 */
export type Pilot =
  | { readonly kind: 'records'; readonly ids: readonly string[] }
  | { readonly kind: 'selection'; readonly selection: string };

/** A version of a rule together with what names it: what the plan is built from. */
export interface Rule<D extends RuleDefinition = RuleDefinition> {
  readonly id: string;
  /** Id of the immutable version whose definition this is. */
  readonly version: string;
  readonly name: string;
  readonly definition: D;
  /** Left out where it runs for all records. */
  readonly pilot?: Pilot | null;
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
}

/** Records among which a rule finds some, wherever they are, and the fields that it finds them by, there and up their links. */
export interface FoundAmong {
  readonly type: string;
  readonly reads: readonly FieldRef[];
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
}

/** A rule of any kind, checked and typed. */
export type AnyCompiled = CompiledRule | CompiledCreate;

/** A rule that writes fields of records that are there, checked and typed: what the evaluator, SQL and the engine work from. */
export type CompiledRule =
  CompiledRollUp | CompiledFormula | CompiledInStep | CompiledHandOn | CompiledLinked;

/** A rule that is worked out for each record by itself, from an expression on it. */
export type CompiledAlone = CompiledFormula | CompiledInStep | CompiledLinked;

/** Whether a rule makes records, rather than writing fields of those that are there. */
export const isCreate = (rule: AnyCompiled): rule is CompiledCreate => rule.kind === 'create';

export const isAlone = (rule: CompiledRule): rule is CompiledAlone =>
  rule.kind === 'formula' || rule.kind === 'inStep' || rule.kind === 'linked';

/** Whether people can't enter a rule's field where it applies, and may elsewhere. */
export const isClaiming = (rule: AnyCompiled): boolean =>
  rule.kind === 'inStep' ||
  (rule.kind === 'linked' && rule.holds === 'always') ||
  ((rule.kind === 'formula' || rule.kind === 'rollUp') && rule.claims !== undefined);

/** Whether a rule hands values on at creation or on change: it states nothing of records as they stand. */
export const isHandOn = (rule: AnyCompiled): rule is CompiledHandOn => rule.kind === 'handOn';

/** The fields that a definition writes, in its order: one, but for cascades and what takes several together. */
export const targetsOf = (model: Model, definition: RuleDefinition): readonly FieldRef[] => {
  const { type } = definition;
  if (definition.kind === 'formula' || definition.kind === 'link')
    return [{ type, field: definition.target }];
  if (definition.kind === 'create') return assignedBy(definition);
  if (definition.kind === 'rollUp')
    return [definition, ...(definition.together ?? [])].map(({ target }) => ({ type, field: target }));
  const taker = arrive(model, type, definition.route) ?? type;
  return definition.assignments
    .filter(({ isOff }) => !isOff)
    .map(({ target }) => ({ type: taker, field: target }));
};

/** What a create rule writes: fields of what it makes, the links between the two, and what comes back. */
function assignedBy({ type, makes, forward, back, assignments, gives = [] }: Create): FieldRef[] {
  const assigned = assignments
    .filter(({ isOff }) => !isOff)
    .map(({ target }) => ({ type: makes, field: target }));
  const given = gives.filter(({ isOff }) => !isOff).map(({ target }) => ({ type, field: target }));
  return [
    ...(forward === null ? [] : [{ type, field: forward }]),
    ...given,
    ...(back === null ? [] : [{ type: makes, field: back }]),
    ...assigned,
  ];
}
