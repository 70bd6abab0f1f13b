import { Decimal, FIRST_DAY, isMoney, shiftDay } from '@/core/values';
import type { TypedExchange } from '@/core/syntax/expression';
import { type Evaluator, Failure, isNothingKnown, type MakeReady, OUTSIDE } from './worked';

/** A rate counts for so many days after its own: over a weekend and the days around it the last one stands. */
export const RATE_DAYS = 7;

/** The pair under which the rate from one currency to another stands: so many of the second for one of the first. */
export const pairOf = (from: string, to: string): string => `${from}/${to}`;

/** The first day whose rate counts for a day. */
export const firstRateDay = (day: string): string => shiftDay(day, -RATE_DAYS) ?? FIRST_DAY;

/** An amount of the wanted currency is itself; another needs a rate. Of nothing, or of no day, nothing is made. */
export function exchanging(node: TypedExchange, ready: MakeReady): Evaluator {
  const [amount, day] = [ready(node.amount), ready(node.day)];
  const { currency } = node.type as { currency: string };
  return (at, read, beneath) => {
    const given = amount(at, read, beneath);
    if (isNothingKnown(given)) return given;
    const of = day(at, read, beneath);
    if (isNothingKnown(of)) return of;
    if (!isMoney(given) || of === null) return null;
    if (given.currency === currency) return given;
    if (!beneath) return OUTSIDE;
    const pair = pairOf(given.currency, currency);
    const rates = beneath(at, { kind: 'rate', node, pair, day: of as string });
    if (rates === OUTSIDE) return OUTSIDE;
    const factor = rates[0] === undefined ? null : read(rates[0], node.rates.rate);
    if (!Decimal.isDecimal(factor)) return Failure.of('missing_rate');
    return { amount: given.amount.times(factor), currency };
  };
}
