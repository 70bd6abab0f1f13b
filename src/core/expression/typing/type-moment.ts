import { bad, dayBegins, good, type Result, shiftDay } from '@/core/values';
import type { Model } from '@/core/model';
import { type CompareOperator, type Expression, type Typed, YES_NO } from '@/core/syntax/expression';
import { describe } from '@/core/expression/describe';
import { evaluate } from '@/core/expression/evaluate/evaluate';
import { OUTSIDE } from '@/core/expression/evaluate/worked';
import { exchangesIn, fieldsRead, gathersIn, isDated } from '@/core/expression/reads';
import { readsRun } from '@/core/expression/evaluate/run-context';
import { zoneOf } from './zone';

type Compare = Extract<Expression, { kind: 'compare' }>;

const TURNED: Readonly<Record<CompareOperator, CompareOperator>> = {
  ...{ '=': '=', '!=': '!=', '<': '>', '<=': '>=', '>': '<', '>=': '<=' },
};

/** A date that stands in the expression itself, rather than on a record. */
const isSettledDate = (node: Typed): boolean =>
  node.type.kind === 'date' &&
  !readsRun(node) &&
  fieldsRead(node).length + gathersIn(node).length + exchangesIn(node).length === 0;

/**
 * A moment compared with a date, either way round: with the whole of that day by the clocks of the workspace's time zone. So a moment is on
 * or before today until midnight, and equal to today at any time of it. `null` where it is no such comparison.
 */
export function comparedWithDay(
  model: Model,
  { operator }: Compare,
  left: Typed,
  right: Typed,
): Result<Typed> | null {
  if (left.type.kind === 'dateTime' && isSettledDate(right)) return onDay(model, operator, left, right);
  return right.type.kind === 'dateTime' && isSettledDate(left)
    ? onDay(model, TURNED[operator], right, left)
    : null;
}

/**
 * | is on or after | is before | is after | is on or before | is | is not |
 * | --- | --- | --- | --- | --- | --- |
 * | not before it begins | before it begins | not before it ends | before it ends | the two | one or the other; not where it is empty |
 */
function onDay(model: Model, operator: CompareOperator, moment: Typed, date: Typed): Result<Typed> {
  const zone = zoneOf(model);
  if (!zone.ok) return zone;
  const day = evaluate(date, () => OUTSIDE);
  const next = typeof day === 'string' ? shiftDay(day, 1) : null;
  if (typeof day !== 'string' || next === null)
    return bad('day.range', 'This date lies outside the years 1 to 9999. Enter another.');
  const words = isDated(date) ? describe(model, date) : null;
  const begins = instant(zone.value, day, words);
  const ends = instant(
    zone.value,
    next,
    words && `the end of ${words === 'today' ? '' : 'the day '}${words}`,
  );
  const test = (by: '<' | '>=', right: Typed): Typed => ({
    ...{ kind: 'compare', type: YES_NO, operator: by, left: moment },
    right,
  });
  switch (operator) {
    case '>=':
    case '<':
      return good(test(operator, begins));
    case '>':
      return good(test('>=', ends));
    case '<=':
      return good(test('<', ends));
    case '=':
      return good(group('all', test('>=', begins), test('<', ends)));
    case '!=':
      return good(group('any', test('<', begins), test('>=', ends)));
  }
}

const group = (operator: 'all' | 'any', ...of: readonly Typed[]): Typed => ({
  ...{ kind: 'group', type: YES_NO, operator },
  of,
});

const instant = (timeZone: string, day: string, words: string | null): Typed => ({
  ...{ kind: 'constant', type: { kind: 'dateTime' } },
  value: new Date(dayBegins(timeZone, day)).toISOString(),
  ...(words === null ? {} : { words }),
});
