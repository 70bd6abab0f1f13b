import type { Expression } from '@/core/expression';
import { arrive, type Model, typeIn } from '@/core/model';
import type { RuleDefinition } from '@/core/rules';

export interface ConditionOf {
  readonly type: string;
  readonly condition: Expression;
  readonly name: string;
  readonly put: (to: Expression | null) => RuleDefinition;
}

/** The conditions of a rule by what they are asked of, each with how another takes its place. */
export function* conditionsOf(model: Model, rule: RuleDefinition): Generator<ConditionOf> {
  const { type } = rule;
  switch (rule.kind) {
    case 'rollUp': {
      const down = rule.route.filter(({ direction }) => direction === 'down');
      const member = arrive(model, type, down);
      if (rule.condition && member !== undefined)
        yield {
          ...{ type: member, condition: rule.condition, name: `which ${typeIn(model, member).plural} count` },
          put: (condition) => ({ ...rule, condition }),
        };
      if (rule.appliesWhen)
        yield {
          ...{ type, condition: rule.appliesWhen, name: 'where it applies' },
          put: (appliesWhen) => ({ ...rule, appliesWhen }),
        };
      return;
    }
    case 'formula':
    case 'link':
      if (rule.appliesWhen)
        yield {
          ...{ type, condition: rule.appliesWhen, name: 'where it applies' },
          put: (appliesWhen) => ({ ...rule, appliesWhen }),
        };
      return;
    case 'cascade': {
      const recipient = arrive(model, type, rule.route);
      if (rule.condition && recipient !== undefined)
        yield {
          ...{
            type: recipient,
            condition: rule.condition,
            name: `which ${typeIn(model, recipient).plural} take it`,
          },
          put: (condition) => ({ ...rule, condition }),
        };
      return;
    }
    case 'create':
      if (rule.condition)
        yield {
          ...{ type, condition: rule.condition, name: 'for which one is made' },
          put: (condition) => ({ ...rule, condition }),
        };
  }
}
