import { exchangesIn, type Typed } from '@/core/expression';
import type { RatesRead } from './base';

/** The rates that expressions look up. */
export function ratesReadBy(parts: readonly (Typed | null)[]): RatesRead | null {
  const exchanges = parts.flatMap((part) => (part ? exchangesIn(part) : []));
  const [first] = exchanges;
  if (!first) return null;
  const { type, pair, day, rate } = first.rates;
  const into = new Set(exchanges.map((node) => (node.type as { currency: string }).currency));
  return { type, pair: pair.field, fields: [pair.field, day.field, rate.field], into: [...into].sort() };
}
