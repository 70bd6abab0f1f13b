import { Decimal, type Outcome, type Value } from '@/core/values';
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
export const reacts = (definition: RuleDefinition): boolean =>
  definition.kind === 'create' ||
  (definition.kind === 'cascade'
    ? definition.moment !== 'inStep'
    : definition.kind === 'rollUp' && definition.map?.otherwise.kind === 'asItIs');

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
export const isClaiming = (rule: AnyCompiled): boolean =>
  rule.kind === 'keptCascade' ||
  (rule.kind === 'linked' && rule.holds === 'always') ||
  ((rule.kind === 'formula' || rule.kind === 'rollUp') && rule.claims !== undefined);

/** Whether a rule hands values on at creation or on change: it states nothing of records as they stand. */
export const isReactingCascade = (rule: AnyCompiled): rule is ReactingCascade =>
  rule.kind === 'reactingCascade';

/** The fields that a definition writes, in its order: one, but for cascades and what takes several together. */
export const targetsOf = (model: Model, definition: RuleDefinition): readonly FieldRef[] => {
  const { type } = definition;
  if (definition.kind === 'formula' || definition.kind === 'link')
    return [{ type, field: definition.target }];
  if (definition.kind === 'create') return assignedBy(definition);
  if (definition.kind === 'rollUp')
    return [definition, ...(definition.together ?? [])].map(({ target }) => ({ type, field: target }));
  const recipient = arrive(model, type, definition.route) ?? type;
  return definition.assignments
    .filter(({ isOff }) => !isOff)
    .map(({ target }) => ({ type: recipient, field: target }));
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

/** What a rule works from, as typed: another key says that it gives something else than before, as when the settled day moved. */
export const semanticKey = (rule: AnyCompiled): string =>
  rule.kind === 'create'
    ? JSON.stringify([rule.where, rule.assigned])
    : rule.kind === 'linked'
      ? JSON.stringify([rule.find, rule.appliesWhen])
      : rule.kind === 'rollUp'
        ? JSON.stringify([
            ...rule.sources.map(({ condition, value }) => [condition, value]),
            rule.appliesWhen,
            rule.claims,
          ])
        : rule.kind === 'reactingCascade'
          ? JSON.stringify([rule.value, rule.condition, rule.moment, rule.given])
          : JSON.stringify([
              ...[rule.value, rule.appliesWhen, rule.otherwise],
              rule.kind === 'formula' ? rule.claims : undefined,
            ]);

/** What a rule gives on a record that has nothing beneath it and nothing entered. */
export const valueOfNone = (rule: CompiledRule): Value => (rule.kind === 'rollUp' ? rule.whenNone : null);

/** Whether a rule reacts to a change of its result, rather than keeping its target equal to it. */
export const isReacting = (rule: CompiledRule): rule is CompiledRollUp & { readonly map: CompiledMap } =>
  rule.kind === 'rollUp' && rule.map?.otherwise === 'asItIs';

/** What stands where nothing counts; of a rule that reacts the number of that case. */
export const noneOf = (rule: CompiledRollUp): Outcome => ({
  value: isReacting(rule) ? new Decimal(NONE) : rule.whenNone,
});
