import { byKind, Decimal, type Outcome, type Value } from '@/core/values';
import { type CompiledMap, NONE } from './shared/result-pipeline';
import { arrive, type Model } from '@/core/model';
import type { Cascade, ReactingCascade, KeptCascade } from './cascade/cascade';
import type { CompiledCreate, Create } from './create/create';
import type { CompiledFormula, Formula } from './formula/formula';
import type { CompiledLinked, LinkRule } from './link/link-rule';
import type { CompiledRollUp, RollUp } from './roll-up/roll-up';
import type { FieldRef, Pilot } from './shared/base';

/** A statement about records that Oikon keeps. One member for each kind of rule. */
export type RuleDefinition = RollUp | Formula | Cascade | Create | LinkRule;

/** Whether a rule, as it is written, acts on changes of a run, rather than keeping its field: its table leaves that as it is otherwise, or it cascades. */
export const reacts = byKind<RuleDefinition, [], boolean>({
  rollUp: ({ map }) => map?.otherwise.kind === 'asItIs',
  formula: () => false,
  cascade: ({ moment }) => moment !== 'inStep',
  create: () => true,
  link: () => false,
});

/** A version of a rule together with what names it: what the plan is built from. */
export interface Rule<D extends RuleDefinition = RuleDefinition> {
  readonly id: string;
  /** Id of the immutable version whose definition this is. */
  readonly version: string;
  readonly name: string;
  readonly definition: D;
  /** Left out where it runs for all records. */
  readonly pilot?: Pilot | null;
  /** The version that stays live for all other records, while this one is tried beside it; left out where elsewhere it does nothing. */
  readonly beside?: { readonly version: string; readonly definition: RuleDefinition } | null;
}

/** A rule of any kind, checked and typed. */
export type AnyCompiled = CompiledRule | CompiledCreate;

/** A rule that writes fields of records that are there, checked and typed: what the evaluator, SQL and the engine work from. */
export type CompiledRule = CompiledRollUp | CompiledFormula | KeptCascade | ReactingCascade | CompiledLinked;

/** A rule that is worked out for each record by itself, from an expression on it. */
export type CompiledAlone = CompiledFormula | KeptCascade | CompiledLinked;

/** Whether a rule makes records, rather than writing fields of those that are there. */
export const isCreate = (rule: AnyCompiled): rule is CompiledCreate => rule.kind === 'create';

export const isAlone = (rule: CompiledRule): rule is CompiledAlone =>
  rule.kind === 'formula' || rule.kind === 'keptCascade' || rule.kind === 'linked';

/** Whether people can't enter a rule's field where it applies, and may elsewhere. */
export const isClaiming = byKind<AnyCompiled, [], boolean>({
  rollUp: ({ claims }) => claims !== undefined,
  formula: ({ claims }) => claims !== undefined,
  keptCascade: () => true,
  reactingCascade: () => false,
  linked: ({ holds }) => holds === 'always',
  create: () => false,
});

/** Whether a rule cascades values at creation or on change: it states nothing of records as they stand. */
export const isReactingCascade = (rule: AnyCompiled): rule is ReactingCascade =>
  rule.kind === 'reactingCascade';

/** The fields that a definition writes, in its order: one, but for cascades and what takes several together. */
export const targetsOf = (model: Model, definition: RuleDefinition): readonly FieldRef[] =>
  writtenBy(definition, model);

const writtenBy = byKind<RuleDefinition, [model: Model], readonly FieldRef[]>({
  rollUp: ({ type, target, together = [], perOption }) => [
    { type, field: target },
    ...(perOption?.others ?? together).map((one) => ({ type, field: one.target })),
  ],
  formula: ({ type, target }) => [{ type, field: target }],
  cascade: ({ type, route, assignments }, model) => {
    const recipient = arrive(model, type, route) ?? type;
    return assignments
      .filter(({ isOff }) => !isOff)
      .map(({ target }) => ({ type: recipient, field: target }));
  },
  create: (definition) => assignedBy(definition),
  link: ({ type, target }) => [{ type, field: target }],
});

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

/** What a rule works from, as typed: another key says that it gives something else than before, as when the settled day moved. */
export const semanticKey = (rule: AnyCompiled): string => JSON.stringify(meaningOf(rule));

const meaningOf = (rule: AnyCompiled): readonly unknown[] => [
  ...statedBy(rule),
  isCreate(rule) ? undefined : rule.half,
];

const statedBy = byKind<AnyCompiled, [], readonly unknown[]>({
  rollUp: ({ sources, appliesWhen, claims }) => [
    ...sources.map(({ condition, value }) => [condition, value]),
    ...[appliesWhen, claims],
  ],
  formula: ({ value, appliesWhen, otherwise, claims }) => [value, appliesWhen, otherwise, claims],
  keptCascade: ({ value, appliesWhen, otherwise }) => [value, appliesWhen, otherwise],
  reactingCascade: ({ value, condition, moment, given }) => [value, condition, moment, given],
  linked: ({ find, appliesWhen }) => [find, appliesWhen],
  create: ({ where, assigned }) => [where, assigned],
});

/** What a rule gives on a record that has nothing beneath it and nothing entered. */
export const valueOfNone = (rule: CompiledRule): Value => (rule.kind === 'rollUp' ? rule.whenNone : null);

/** Whether a rule reacts to a change of its result, rather than keeping its target equal to it. */
export const isReacting = (rule: CompiledRule): rule is CompiledRollUp & { readonly map: CompiledMap } =>
  rule.kind === 'rollUp' && rule.map?.otherwise === 'asItIs';

/** What stands where nothing counts; of a rule that reacts the number of that case. */
export const noneOf = (rule: CompiledRollUp): Outcome => ({
  value: isReacting(rule) ? new Decimal(NONE) : rule.whenNone,
});
