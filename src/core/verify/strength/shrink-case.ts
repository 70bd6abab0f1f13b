import { emptyRow, type Row, type WireEdit } from '@/core/engine';
import { fieldIn, type Model, typeIn } from '@/core/model';
import { certain, Decimal, isMoney, parseValue, type Value, type ValueType } from '@/core/values';
import type { GeneratedFamily } from './generate-family';

/** Most tries at leaving something out. */
const MOST_TRIES = 250;

/** Leaves out one thing after another, as long as a case remains what it is wanted for. */
export function shrinkCase(
  model: Model,
  from: GeneratedFamily,
  isWanted: (one: GeneratedFamily) => boolean,
): GeneratedFamily {
  let least = from;
  let left = MOST_TRIES;
  for (let isLess = true; isLess;) {
    isLess = false;
    for (const less of withLess(model, least)) {
      left -= 1;
      if (left < 0) return least;
      if (!isWanted(less)) continue;
      least = less;
      isLess = true;
      break;
    }
  }
  return least;
}

/** A case with one thing less: an edit, a record, a value; or with an amount that is rounder. */
function* withLess(model: Model, { rows, runs }: GeneratedFamily): Generator<GeneratedFamily> {
  for (const [at, run] of runs.entries())
    for (const [which] of run.entries()) {
      const less = run.filter((_, index) => index !== which);
      yield {
        rows,
        runs: runs.flatMap((one, index) => (index !== at ? [one] : less.length > 0 ? [less] : [])),
      };
    }
  for (const [at, run] of runs.entries())
    for (const edit of run) {
      // A record that is made may as well have been there.
      const row = edit.kind === 'create' ? rowMade(model, edit) : null;
      const less = run.filter((one) => one !== edit);
      if (row && at < runs.length - 1)
        yield {
          rows: [...rows, row],
          runs: runs.flatMap((one, index) => (index !== at ? [one] : less.length > 0 ? [less] : [])),
        };
    }
  const named = new Set(runs.flat().flatMap(({ id }) => id ?? []));
  for (const { id } of [...rows].reverse()) {
    if (named.has(id) || rows.length === 1) continue;
    const others = rows.filter((row) => row.id !== id);
    const isNeeded =
      others.some((row) => isNaming(model, row, id, true)) ||
      runs.flat().some((edit) => Object.values(edit.values ?? {}).includes(id));
    if (!isNeeded) yield { rows: others.map((row) => without(row, (value) => value === id)), runs };
  }
  for (const [at, row] of rows.entries())
    for (const [key, value] of Object.entries(row.values)) {
      const field = fieldIn(model, row.type, key);
      if (
        value === null ||
        field.required ||
        key === typeIn(model, row.type).title ||
        isHeld(model, row, key)
      )
        continue;
      yield { rows: rows.map((one, index) => (index === at ? withValue(row, key, null) : one)), runs };
    }
  for (const [at, row] of rows.entries())
    for (const [key, value] of Object.entries(row.values)) {
      if (row.type === model.rates?.type) continue;
      const plain = plainer(fieldIn(model, row.type, key).type, value);
      if (plain !== value)
        yield { rows: rows.map((one, index) => (index === at ? withValue(row, key, plain) : one)), runs };
    }
}

function rowMade(model: Model, { type, id, values = {} }: WireEdit): Row {
  const row = emptyRow(model, { type, id: certain(id) });
  const read = Object.entries(values).flatMap(([key, wire]) => {
    const parsed = parseValue(fieldIn(model, type, key).type, wire);
    return parsed.ok ? [[key, parsed.value] as const] : [];
  });
  return { ...row, values: { ...row.values, ...Object.fromEntries(read) } };
}

/** A round amount in place of one that is none. */
function plainer(type: ValueType, value: Value): Value {
  const isAmount = type.kind === 'money' || type.kind === 'anyMoney';
  if (isAmount && isMoney(value) && !value.amount.mod(5).isZero())
    return { ...value, amount: new Decimal(100) };
  if (type.kind === 'number' && value instanceof Decimal && !value.isInteger()) return new Decimal(10);
  return value;
}

/** A bridge's and an open link's links must be there. */
const isHeld = (model: Model, { type }: Row, key: string): boolean => {
  const { bridge, openLinks = [] } = typeIn(model, type);
  return (
    (bridge === true && fieldIn(model, type, key).type.kind === 'link') ||
    openLinks.some(({ links, required }) => required && links.includes(key))
  );
};

const isNaming = (model: Model, row: Row, id: string, isNeeded: boolean): boolean =>
  Object.entries(row.values).some(
    ([key, value]) =>
      value === id && (!isNeeded || fieldIn(model, row.type, key).required || isHeld(model, row, key)),
  );

const withValue = (row: Row, key: string, value: Value): Row => ({
  ...row,
  values: { ...row.values, [key]: value },
});

const without = (row: Row, isGone: (value: unknown) => boolean): Row => ({
  ...row,
  values: Object.fromEntries(
    Object.entries(row.values).map(([key, value]) => [key, isGone(value) ? null : value]),
  ),
});
