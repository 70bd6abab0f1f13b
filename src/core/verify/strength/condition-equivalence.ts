import { evaluate, type Expression, type Typed, typeCondition, type TypedField } from '@/core/expression';
import type { Model } from '@/core/model';
import {
  currencyPlaces,
  Decimal,
  isMoney,
  type Option,
  shiftDay,
  type Value,
  type ValueType,
} from '@/core/values';

/** Most combinations of values over which two conditions are compared. */
const MOST_COMBINATIONS = 20_000;

/** Whether two conditions hold for the same records; `null` always holds. What can't be decided isn't said to be so. */
export function isEquivalent(
  model: Model,
  type: string,
  one: Expression | null,
  other: Expression | null,
): boolean {
  if (JSON.stringify(one) === JSON.stringify(other)) return true;
  const verdicts = verdictsOf(model, type, [one, other]);
  return verdicts !== null && verdicts.every(([a, b]) => a === b);
}

/** Whether a condition holds for all records there may be, or for none; `null` where it holds for some, or that can't be decided. */
export function constantTruth(model: Model, type: string, condition: Expression): 'always' | 'never' | null {
  const verdicts = verdictsOf(model, type, [condition]);
  if (!verdicts) return null;
  if (verdicts.every(([holds]) => holds)) return 'always';
  return verdicts.some(([holds]) => holds) ? null : 'never';
}

/** What conditions come to for every combination of values at which one of them may turn; `null` where these can't be told. */
function verdictsOf(
  model: Model,
  type: string,
  conditions: readonly (Expression | null)[],
): boolean[][] | null {
  const nodes: (Typed | null)[] = [];
  for (const condition of conditions) {
    const typed = condition ? typeCondition(model, type, condition) : null;
    if (typed && !typed.ok) return null;
    nodes.push(typed ? typed.value : null);
  }
  const points = new Points(model);
  if (!nodes.every((node) => node === null || points.collect(node))) return null;
  const fields = points.fields();
  if (fields.reduce((count, { values }) => count * values.length, 1) > MOST_COMBINATIONS) return null;
  return combinations(fields).map((values) =>
    nodes.map(
      (node) => node === null || evaluate(node, (field) => values.get(keyOf(field)) ?? null) === true,
    ),
  );
}

const keyOf = ({ owner, route, field }: TypedField): string => `${route.join('.')} ${owner}.${field}`;

interface Point {
  readonly key: string;
  readonly values: readonly Value[];
}

/** The values at which tests of conditions may turn, field by field. */
class Points {
  readonly #fields = new Map<
    string,
    { readonly type: ValueType; readonly constants: Value[]; readonly isFilled: boolean }
  >();

  constructor(private readonly model: Model) {}

  /** Answers false for what isn't made of tests of one field against constants. */
  collect(node: Typed): boolean {
    switch (node.kind) {
      case 'group':
        return node.of.every((part) => this.collect(part));
      case 'selection':
        return this.collect(node.of);
      case 'field':
        return this.note(node, []);
      case 'presence':
        return node.operand.kind === 'field' && this.note(node.operand, []);
      case 'among':
        return node.operand.kind === 'field' && this.note(node.operand, node.options);
      case 'compare':
        return (
          node.left.kind === 'field' &&
          node.right.kind === 'constant' &&
          this.note(node.left, [node.right.value], node.operator)
        );
      default:
        return false;
    }
  }

  private note(field: TypedField, constants: readonly Value[], operator = '='): boolean {
    const { kind } = field.type;
    if (kind === 'choices' || kind === 'dateTime' || kind === 'anyMoney' || kind === 'serial') return false;
    const isOrdered = operator !== '=' && operator !== '!=';
    if (isOrdered && (kind === 'text' || kind === 'longText')) return false;
    // On a record up a link there is nothing where the link is empty.
    const isFilled =
      field.route.length === 0 && this.model.field(field.owner, field.field)?.required === true;
    const known = this.#fields.get(keyOf(field)) ?? { type: field.type, constants: [], isFilled };
    known.constants.push(...constants);
    this.#fields.set(keyOf(field), known);
    return true;
  }

  fields(): Point[] {
    return [...this.#fields].map(([key, { type, constants, isFilled }]) => ({
      key,
      values: pointsOf(type, constants).filter((value) => value !== null || !isFilled),
    }));
  }
}

/** Each constant, what is next to it on both sides, something else, and nothing: between these no test turns. */
function pointsOf(type: ValueType, constants: readonly Value[]): readonly Value[] {
  const given = constants.filter((value) => value !== null);
  switch (type.kind) {
    case 'yesNo':
      return [null, true, false];
    case 'choice':
      return [null, ...type.options.map(({ key }: Option) => key)];
    case 'rating':
      return [
        null,
        ...Array.from({ length: type.highest - type.lowest + 1 }, (_, at) => new Decimal(type.lowest + at)),
      ];
    case 'number':
      return [null, new Decimal(0), ...given.flatMap((value) => around(value as Decimal, type.scale))];
    case 'money':
      return [
        null,
        ...[
          new Decimal(0),
          ...given.flatMap((value) =>
            isMoney(value) ? around(value.amount, currencyPlaces(type.currency)) : [],
          ),
        ].map((amount) => ({ amount, currency: type.currency })),
      ];
    case 'date':
      return [
        null,
        '2000-01-01',
        ...given.flatMap((value) => [-1, 0, 1].flatMap((days) => shiftDay(String(value), days) ?? [])),
      ];
    default:
      return [null, SOMETHING_ELSE, ...given];
  }
}

const SOMETHING_ELSE = '00000000-0000-7000-a000-00000000ffff';

/** The values that a field of a scale may have next to a limit. */
function around(limit: Decimal, scale: number): Decimal[] {
  const step = new Decimal(10).pow(-scale);
  const floor = limit.toDecimalPlaces(scale, Decimal.ROUND_FLOOR);
  return [-1, 0, 1, 2].map((steps) => floor.plus(step.times(steps)));
}

function combinations(points: readonly Point[]): ReadonlyMap<string, Value>[] {
  return points.reduce<ReadonlyMap<string, Value>[]>(
    (all, { key, values }) => all.flatMap((one) => values.map((value) => new Map([...one, [key, value]]))),
    [new Map()],
  );
}
