import type { TypedExchange } from '@/core/expression';
import type { Reads } from './sql-reader';
import type { SqlOf } from './value-sql';

interface Parts {
  readonly amount: string;
  readonly day: string;
  /** SQL of whether the amount is of the wanted currency already. */
  readonly isSame: string;
  readonly rate: string;
}

function partsOf(node: TypedExchange, reads: Reads, sqlOf: SqlOf): Parts {
  const { currency } = node.type as { currency: string };
  const [given, day] = [sqlOf(node.amount), sqlOf(node.day)];
  const { type } = node.amount;
  if (type.kind === 'money') {
    const rate = type.currency === currency ? '1' : reads.rate(node, `'${type.currency}/${currency}'`, day);
    return { amount: given, day, isSame: String(type.currency === currency), rate };
  }
  const from = `(${given}).currency`;
  return {
    ...{ amount: `(${given}).amount`, day, isSame: `${from} = '${currency}'` },
    rate: reads.rate(node, `${from} || '/${currency}'`, day),
  };
}

/** An amount in another currency: the core's `exchanging`. The currency was checked: it is a code. */
export function exchangeSql(node: TypedExchange, reads: Reads, sqlOf: SqlOf): string {
  const { amount, day, isSame, rate } = partsOf(node, reads, sqlOf);
  return `(CASE WHEN ${day} IS NULL THEN NULL WHEN ${isSame} THEN ${amount} ELSE ${amount} * ${rate} END)`;
}

/** Where an amount and a day are there, but no rate. */
export function missingRateSql(node: TypedExchange, reads: Reads, sqlOf: SqlOf): string {
  const { amount, day, isSame, rate } = partsOf(node, reads, sqlOf);
  return `(CASE WHEN ${amount} IS NOT NULL AND ${day} IS NOT NULL AND NOT (${isSame}) AND ${rate} IS NULL THEN 'missing_rate' END)`;
}
