import { itemAt } from '@/core/values';
import type { Expression } from '@/core/expression';
import { arrive, type Model } from '@/core/model';
import type { RollUp, RuleDefinition } from '@/core/rules';
import { isEquivalent } from './condition-equivalence';

/**
 * Whether two forms of a rule can be seen to give the same for all records there may be. What can't be seen so isn't said to differ: it is
 * undecided.
 *
 * | what differs | is the same where |
 * | --- | --- |
 * | conditions | for every combination of values at which a test of theirs may turn both hold, or neither does |
 * | counting a record on every way to it | the aggregate gives the same for a value however often it comes |
 * | what stands where a link rule finds none | it fills only what is empty |
 */
export function isProvablyEquivalent(model: Model, one: RuleDefinition, other: RuleDefinition): boolean {
  const [a, b] = [withoutMatterless(one), withoutMatterless(other)];
  const [conditions, others] = [conditionsIn(model, a), conditionsIn(model, b)];
  if (conditions.length !== others.length || barely(a) !== barely(b)) return false;
  return conditions.every(({ type, condition }, at) =>
    isEquivalent(model, type, condition, itemAt(others, at).condition),
  );
}

const ONCE_IS_ENOUGH: ReadonlySet<RollUp['aggregate']> = new Set([
  'minimum',
  'maximum',
  'range',
  'all',
  'any',
  'none',
  'first',
  'last',
  'best',
  'worst',
  'countDistinct',
] as const);

function withoutMatterless(definition: RuleDefinition): RuleDefinition {
  if (definition.kind === 'link' && definition.holds === 'whereEmpty' && definition.none === 'clear')
    return { ...definition, none: 'leave' };
  if (definition.kind !== 'rollUp' || !ONCE_IS_ENOUGH.has(definition.aggregate)) return definition;
  const { isEveryWay: _own, ...rest } = definition;
  return {
    ...rest,
    ...(rest.also ? { also: rest.also.map(({ isEveryWay: _each, ...source }) => source) } : {}),
  };
}

interface On {
  readonly type: string;
  readonly condition: Expression | null;
}

/** The conditions of a definition with the types that they are read on, always in one order. */
function conditionsIn(model: Model, definition: RuleDefinition): On[] {
  const { type } = definition;
  switch (definition.kind) {
    case 'rollUp': {
      const sources = [definition, ...(definition.also ?? [])].map(({ route, condition }) => {
        const down = route.filter(({ direction }) => direction === 'down');
        return { type: arrive(model, type, down) ?? type, condition };
      });
      return [...sources, { type, condition: definition.appliesWhen ?? null }];
    }
    case 'formula':
      return [{ type, condition: definition.appliesWhen }];
    case 'cascade': {
      const recipient = {
        type: arrive(model, type, definition.route) ?? type,
        condition: definition.condition,
      };
      const { moment } = definition;
      return typeof moment === 'string' ? [recipient] : [recipient, { type, condition: moment.where }];
    }
    case 'create':
      return [{ type, condition: definition.condition }];
    case 'link': {
      const { find } = definition;
      const found = model.field(type, definition.target)?.type;
      const among =
        find.kind === 'match' && found?.kind === 'link'
          ? [{ type: found.target, condition: find.condition }]
          : [];
      return [{ type, condition: definition.appliesWhen }, ...among];
    }
  }
}

/** A definition without its conditions, to be compared. */
const barely = (definition: RuleDefinition): string =>
  JSON.stringify(definition, (key, value: unknown) =>
    ['condition', 'appliesWhen', 'where'].includes(key) ? null : value,
  );
