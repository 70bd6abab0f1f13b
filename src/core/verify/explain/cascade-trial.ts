import { type Row } from '@/core/engine';
import { type Field, type Model } from '@/core/model';
import { type ReactingCascade, type KeptCascade, type CompiledTest } from '@/core/rules';
import { Decimal, firstIn, isMoney, parseValue, shiftDay, type Value, type WireValue } from '@/core/values';

/** What a cascade is tried with. */
export interface CascadeTrial {
  /** Values that the record is given; left out, such that the rule acts. */
  readonly staged?: Readonly<Record<string, WireValue>> | null;
  /** Ids of people, of whom one may be another. */
  readonly people?: readonly string[];
}

interface Staged {
  readonly field: Field;
  /** As the record is taken to have been, where it would already be as the rule wants it. */
  readonly before: Value;
  readonly after: Value;
}

interface Trial {
  readonly given: Readonly<Record<string, WireValue>> | null;
  readonly people: readonly string[];
}

/** Changes of the record's own fields: what was given, or what the rule cascades. */
export function stagedOf(
  model: Model,
  rule: KeptCascade | ReactingCascade,
  root: Row,
  { given, people }: Trial,
): Staged[] {
  const watched = watchedOf(model, rule);
  const read = Object.entries(given ?? {}).flatMap(([key, wire]): Staged[] => {
    const field = watched.find((one) => one.key === key);
    const parsed = field && parseValue(field.type, wire);
    return field && parsed?.ok ? [{ field, before: root.values[key] ?? null, after: parsed.value }] : [];
  });
  if (read.length > 0) return read;
  const [field] = watched;
  if (!field) return [];
  const now = root.values[field.key] ?? null;
  const test =
    rule.kind === 'reactingCascade' && rule.moment.kind === 'onChange'
      ? firstIn(rule.moment.tests)
      : { kind: 'changed' as const, field };
  const mapped = mappedFrom(rule, field, now);
  if (test.kind === 'changed' && mapped !== null) return [{ field, before: now, after: mapped }];
  return [fitting(test, now, people)];
}

/** Of a field by whose options something is cascaded: the next option after its own for which a value is given. */
function mappedFrom({ definition }: KeptCascade | ReactingCascade, field: Field, now: Value): Value {
  const by = definition.assignments.find(
    ({ value, isOff }) => !isOff && value.kind === 'map' && value.field === field.key,
  )?.value;
  if (by?.kind !== 'map' || field.type.kind !== 'choice') return null;
  const keys = field.type.options.map(({ key }) => key);
  const at = keys.findIndex((key) => key === now) + 1;
  const others = [...keys.slice(at), ...keys.slice(0, Math.max(at - 1, 0))];
  return others.find((key) => by.rows.some(({ from }) => from === key)) ?? null;
}

/** Fields of the record that cascades, of which a change is cascaded. */
export function watchedOf(model: Model, rule: KeptCascade | ReactingCascade): Field[] {
  if (rule.kind === 'reactingCascade')
    return rule.moment.kind === 'onChange' ? [...new Set(rule.moment.tests.map(({ field }) => field))] : [];
  const { type, assignments } = rule.definition;
  const keys = assignments.flatMap(({ value, isOff }) => {
    if (isOff) return [];
    if (value.kind === 'map') return [value.field];
    return value.kind === 'expression' &&
      value.expression.kind === 'field' &&
      value.expression.route.length === 0
      ? [value.expression.field]
      : [];
  });
  return [...new Set(keys)].flatMap((key) => model.field(type, key) ?? []);
}

function fitting(test: CompiledTest, now: Value, people: readonly string[]): Staged {
  const { field } = test;
  const isThere = (value: Value) => JSON.stringify(value) === JSON.stringify(now);
  if (test.kind === 'became')
    return { field, before: isThere(test.value) ? other(field, now, 1, people) : now, after: test.value };
  if (test.kind === 'stoppedBeing')
    return { field, before: test.value, after: other(field, test.value, 1, people) };
  const moved = other(field, now, test.kind === 'fell' ? -1 : 1, people);
  return { field, before: now, after: moved };
}

/** Another value of the field: the next option, a day or one more, the opposite; where there is none, empty. */
function other({ type }: Field, now: Value, by: 1 | -1, people: readonly string[]): Value {
  switch (type.kind) {
    case 'choice': {
      const at = type.options.findIndex(({ key }) => key === now);
      return type.options[(at + by + type.options.length) % type.options.length]?.key ?? null;
    }
    case 'choices':
      return Array.isArray(now) && now.length > 0 ? null : type.options.slice(0, 1).map(({ key }) => key);
    case 'person':
      return people.find((id) => id !== now) ?? null;
    case 'yesNo':
      return now !== true;
    case 'number':
      return (Decimal.isDecimal(now) ? now : new Decimal(0)).plus(by);
    case 'rating':
      return Decimal.isDecimal(now) &&
        now.plus(by).lessThanOrEqualTo(type.highest) &&
        now.plus(by).greaterThanOrEqualTo(type.lowest)
        ? now.plus(by)
        : new Decimal(type.lowest);
    case 'money':
      return { amount: (isMoney(now) ? now.amount : new Decimal(0)).plus(by * 100), currency: type.currency };
    case 'date':
      return typeof now === 'string' ? shiftDay(now, by) : '2027-01-01';
    case 'text':
    case 'longText':
      return now === null ? 'Something' : `${now as string}, changed`;
    default:
      return null;
  }
}
