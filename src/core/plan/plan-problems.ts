import { isDated, type Typed } from '@/core/expression';
import { grouped } from '@/core/grouped';
import { fieldIn, type Model, typeIn } from '@/core/model';
import {
  type AnyCompiled,
  competeForField,
  type CompiledRule,
  type FieldRef,
  isCreate,
  isReactingCascade,
  precedenceOf,
} from '@/core/rules';
import { firstIn, itemAt, type ProblemCode, valueAt } from '@/core/values';
import { cannotBothCascade, cannotBothHold } from './cannot-both';
import { circleThrough, type Graph } from './graph';
import { isField, isOpen, isReturning, isSamePart } from './plan-graph';
import type { RuleProblem } from './planned';
import { keyOf } from './planned';
import type { ByNode } from './planned';

/** What a create rule would write although another rule keeps it, and links that two of them would fill. */
export function makersProblems(model: Model, rules: readonly AnyCompiled[]): RuleProblem[] {
  const keepers = new Map(
    rules.filter(isField).flatMap((rule) => (isOpen(rule) ? [] : [[keyOf(rule.writes), rule] as const])),
  );
  const makers = grouped(rules.filter(isCreate), ({ writes }) => keyOf(writes));
  return rules.filter(isCreate).flatMap((rule): RuleProblem[] => {
    const say = (place: string, ref: FieldRef, other: AnyCompiled, advice: string): RuleProblem => ({
      ...{ rule: rule.id, code: 'plan.twoWriters', place, data: { others: [other.id] } },
      message: `${fieldWords(model, ref)} is kept by “${other.name}” already. ${advice}`,
    });
    const found: RuleProblem[] = [];
    rule.definition.assignments.forEach(({ target, isOff }, at) => {
      const ref = { type: rule.makes, field: target };
      const keeper = isOff ? undefined : keepers.get(keyOf(ref));
      if (keeper)
        found.push(say(`assignments.${at}.target`, ref, keeper, 'Leave it out, or pause the other rule.'));
    });
    rule.definition.gives?.forEach(({ target, isOff }, at) => {
      const ref = { type: rule.writes.type, field: target };
      const keeper = isOff ? undefined : keepers.get(keyOf(ref));
      if (keeper)
        found.push(say(`gives.${at}.target`, ref, keeper, 'Leave it out, or pause the other rule.'));
    });
    if (rule.definition.back !== null) {
      const ref = { type: rule.makes, field: rule.definition.back };
      const keeper = keepers.get(keyOf(ref));
      if (keeper) found.push(say('links', ref, keeper, 'Choose another link, or pause the other rule.'));
    }
    if (rule.writes.field !== '') {
      const other =
        keepers.get(keyOf(rule.writes)) ?? valueAt(makers, keyOf(rule.writes)).find((one) => one !== rule);
      if (other)
        found.push(say('links', rule.writes, other, 'Choose another link, or pause the other rule.'));
    }
    if (isReturning(rule))
      for (const { returnsTo } of rule.assigned) {
        const ref = { type: rule.writes.type, field: returnsTo?.key ?? '' };
        const keeper = keepers.get(keyOf(ref));
        if (keeper)
          found.push(say('returning', ref, keeper, 'Then it can’t be handed back. Let changes not go back.'));
      }
    return found;
  });
}

export function twoWriters(model: Model, rules: readonly CompiledRule[]): RuleProblem[] {
  const byField = grouped(rules, ({ writes }) => keyOf(writes));
  return rules.flatMap((rule): RuleProblem[] => {
    const others = valueAt(byField, keyOf(rule.writes)).filter(
      (other) => !isSamePart(other, rule) && !mayShare(rule, other),
    );
    if (others.length === 0) return [];
    const names = others.map((other) => `“${other.name}”`).join(' and ');
    const data = { others: others.map((other) => other.id) };
    const field = fieldWords(model, rule.writes);
    const message = `${field} is kept by ${names} already. Choose another field, pause the other rule, or state both in one formula: a value where its condition holds, otherwise the other.`;
    const give = `${field} is also written by ${names}. Say which of them comes first, give them conditions that can’t both hold, or pause the other rule.`;
    return others.every((other) => competeForField(rule, other))
      ? [{ rule: rule.id, code: 'plan.precedence', place: 'precedence', message: give, data }]
      : [{ rule: rule.id, code: 'plan.twoWriters', place: 'target', message, data }];
  });
}

/**
 * A record starts with a value and is given another when something changes: the same field may be cascaded at both moments. At the same
 * moment rules may react into it where one comes first, or where it can be seen that only one of them does.
 */
function mayShare(a: CompiledRule, b: CompiledRule): boolean {
  if (isReactingCascade(a) && isReactingCascade(b) && a.moment.kind !== b.moment.kind) return true;
  if (!competeForField(a, b)) return false;
  if (precedenceOf(a) !== precedenceOf(b)) return true;
  if (isReactingCascade(a) && isReactingCascade(b)) return cannotBothCascade(a, b);
  return cannotBothHold(whereOf(a), whereOf(b));
}

/** On which records of its target's type a rule reacts. */
const whereOf = (rule: CompiledRule): Typed | null =>
  isReactingCascade(rule) ? rule.condition : rule.kind === 'rollUp' ? rule.appliesWhen : null;

const fieldWords = (model: Model, { type, field }: FieldRef): string =>
  `${fieldIn(model, type, field).name} of ${typeIn(model, type).name}`;

/** What is cascaded follows a change of what is watched, not a condition that turns with the day. */
export function datedAdvice(rule: AnyCompiled): RuleProblem[] {
  const where = isReactingCascade(rule) && rule.moment.kind === 'onChange' ? rule.moment.where : null;
  if (!where || !isDated(where)) return [];
  return [
    {
      ...{ rule: rule.id, code: 'plan.dated', place: 'moment' },
      message: `The condition turns with the day: “${rule.name}” cascades only when what it watches changes, not on the day on which the condition comes to hold.`,
    },
  ];
}

/** What is said of circles. */
export class CircleWords {
  constructor(
    private readonly model: Model,
    private readonly graph: Graph,
    private readonly rules: ByNode,
  ) {}

  /** A circle that can't settle. */
  refused(key: string, graph: Graph): RuleProblem {
    return this.say(key, graph, 'plan.circle', 'Change one of them so that none reads what it leads to.');
  }

  /** One through a rule that reacts. */
  settles(key: string): RuleProblem {
    const how =
      'A save goes round until nothing follows: what is kept is worked out, then each that is due acts, at most once for each record.';
    return this.say(key, this.graph, 'plan.settles', how);
  }

  private say(key: string, graph: Graph, code: ProblemCode, advice: string): RuleProblem {
    const path = circleThrough(key, graph).map((step) => firstIn(valueAt(this.rules, step)));
    const steps = path
      .slice(0, -1)
      .map(
        (rule, index) => `“${rule.name}” ${this.does(rule)}, which “${itemAt(path, index + 1).name}” reads`,
      );
    return {
      rule: firstIn(valueAt(this.rules, key)).id,
      code,
      place: 'value',
      message: `These rules run in a circle: ${steps.join('; ')}. ${advice}`,
      data: { circle: path.map((rule) => rule.id) },
    };
  }

  private does(rule: AnyCompiled): string {
    return isCreate(rule)
      ? `makes ${typeIn(this.model, rule.makes).plural}`
      : `writes ${fieldWords(this.model, rule.writes)}`;
  }
}
