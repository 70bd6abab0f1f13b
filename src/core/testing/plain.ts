import type { Row } from '../engine';
import type { Expression } from '../expression';
import type { Model } from '../model';
import type { Plan } from '../plan';
import type { CompiledRollUp } from '../rules';
import { Decimal, type Money, type Value } from '../values';

/**
 * Works every kept value out again from nothing, slowly and plainly, by loops over all records. Kept for tests only: it
 * shares neither the evaluator, nor the aggregates, nor the order of events with the engine; it covers what the tests'
 * rules use. Answers rows by key with their values; `'error'` stands for a value that can't be worked out.
 */
export function workOutPlainly(
  model: Model,
  plan: Plan,
  rows: readonly Row[],
): Map<string, Record<string, Value | 'error'>> {
  const there = rows.filter((row) => !row.deleted);
  const values = new Map(
    rows.map((row) => [`${row.type} ${row.id}`, { ...row.values } as Record<string, Value | 'error'>]),
  );
  for (const rule of plan.rules) {
    for (const parent of there.filter((row) => row.type === rule.writes.type)) {
      const children = there
        .filter((row) => row.type === rule.link.type)
        .map((row) => values.get(`${row.type} ${row.id}`)!)
        .filter((child) => child[rule.link.link] === parent.id);
      values.get(`${parent.type} ${parent.id}`)![rule.writes.field] = totalOf(model, rule, children, values);
    }
  }
  return values;
}

type Plain = Record<string, Value | 'error'>;

function totalOf(
  model: Model,
  rule: CompiledRollUp,
  children: readonly Plain[],
  all: ReadonlyMap<string, Plain>,
): Value | 'error' {
  const { condition, aggregate, value } = rule.definition;
  const verdicts = children.map((child) =>
    condition ? holds(model, rule.link.type, condition, child, all) : true,
  );
  if (verdicts.includes('error')) return 'error';
  const counted = children.filter((_, index) => verdicts[index] === true);
  const given: readonly (Value | 'error')[] = value
    ? counted.map((child) => child[value.field]!).filter((found) => found !== null)
    : counted.map(() => null);
  if (given.includes('error')) return 'error';
  if (given.length === 0) return rule.whenNone;
  if (aggregate === 'count') return new Decimal(given.length);
  if (aggregate === 'minimum' || aggregate === 'maximum') {
    const sorted = [...(given as string[])].sort();
    return aggregate === 'minimum' ? sorted[0]! : sorted.at(-1)!;
  }
  const isAmount = typeof given[0] === 'object' && given[0] !== null && 'currency' in given[0];
  const digits = given.map((found) => (isAmount ? (found as Money).amount : (found as Decimal)));
  const sum = digits.reduce((total, next) => total.plus(next), new Decimal(0));
  const exact = aggregate === 'average' ? sum.div(given.length) : sum;
  const { type } = rule.target;
  const rounded = exact.toDecimalPlaces(
    type.kind === 'money' ? 2 : type.kind === 'number' ? type.scale : 0,
    4,
  );
  if (type.kind === 'rating' && (rounded.lessThan(type.lowest) || rounded.greaterThan(type.highest)))
    return 'error';
  return isAmount ? { amount: rounded, currency: (given[0] as Money).currency } : rounded;
}

/** Equality with a constant, on the record or up one link: all that the tests' conditions use. */
function holds(
  model: Model,
  type: string,
  condition: Expression,
  child: Plain,
  all: ReadonlyMap<string, Plain>,
): boolean | 'error' {
  if (condition.kind !== 'compare' || condition.left.kind !== 'field' || condition.right.kind !== 'constant')
    throw new TypeError('not for this test');
  let record: Plain | undefined = child;
  let at = type;
  for (const link of condition.left.route) {
    const field = model.field(at, link)!;
    at = field.type.kind === 'link' ? field.type.target : at;
    record = typeof record?.[link] === 'string' ? all.get(`${at} ${record[link] as string}`) : undefined;
  }
  const found = record?.[condition.left.field];
  return found === 'error' ? 'error' : found === condition.right.value;
}
