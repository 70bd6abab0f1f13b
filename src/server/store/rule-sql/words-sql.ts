import { CURRENCIES, currencyPlaces, type ValueType } from '@/core/values';
import type { ValuePlaces } from '@/server/store/sql/sql';

/** A value for people, as `displayValue` has it in the plain form; NULL for an empty one. */
export function wordsSql(type: ValueType, sql: string, binds: ValuePlaces): string {
  switch (type.kind) {
    case 'yesNo':
      return `(CASE WHEN ${sql} THEN 'yes' WHEN NOT ${sql} THEN 'no' END)`;
    case 'choice':
      return optionName(type.options, sql, binds);
    case 'choices':
      return `(SELECT string_agg(${optionName(type.options, 'chosen.key', binds)}, ', ' ORDER BY chosen.place)
        FROM unnest(${sql}) WITH ORDINALITY chosen(key, place))`;
    case 'serial':
      return `(${binds.add(type.prefix, 'text')} || lpad(${sql}::text, GREATEST(${type.digits}, length(${sql}::text)), '0'))`;
    case 'date':
      return `to_char(${sql}, 'FMDD Mon FMYYYY')`;
    case 'dateTime':
      return `(to_char(${sql} AT TIME ZONE 'UTC', 'FMDD Mon FMYYYY HH24:MI') || ' UTC')`;
    case 'rating':
      return `${sql}::text`;
    case 'money':
      return `(${digitsSql(sql, currencyPlaces(type.currency))} || ${binds.add(` ${type.currency}`, 'text')})`;
    case 'anyMoney':
      return amountSql(sql, binds);
    case 'number': {
      const digits = digitsSql(sql, type.scale);
      return type.unit ? `(${digits} || ${binds.add(` ${type.unit}`, 'text')})` : digits;
    }
    default:
      return sql;
  }
}

/** An amount of any currency, with as many places as its own has: two, but for those that are named. */
function amountSql(sql: string, binds: ValuePlaces): string {
  const byPlaces = new Map<number, string[]>();
  for (const code of CURRENCIES) {
    const places = currencyPlaces(code);
    if (places !== 2) byPlaces.set(places, [...(byPlaces.get(places) ?? []), code]);
  }
  const cases = Array.from(
    byPlaces,
    ([places, codes]) =>
      `WHEN (${sql}).currency = ANY(${binds.add(codes, 'text[]')}) THEN ${digitsSql(`(${sql}).amount`, places)}`,
  );
  return `((CASE ${cases.join(' ')} ELSE ${digitsSql(`(${sql}).amount`, 2)} END) || ' ' || (${sql}).currency)`;
}

function optionName(
  options: readonly { readonly key: string; readonly name: string }[],
  sql: string,
  binds: ValuePlaces,
): string {
  const listed = (part: 'key' | 'name') =>
    binds.add(
      options.map((option) => option[part]),
      'text[]',
    );
  return `COALESCE((${listed('name')})[array_position(${listed('key')}, ${sql})], ${sql})`;
}

/** Digits in threes with so many places: by a mask as long as a field holds, and one by one where an expression comes to more. */
function digitsSql(sql: string, places: number): string {
  const fraction = places > 0 ? `.${'0'.repeat(places)}` : '';
  const masked = `to_char(${sql}, 'FM999,999,999,999,999,999,999,999,999,990${fraction}')`;
  const long = `regexp_replace(round((${sql})::numeric, ${places})::text, '(\\d)(?=(\\d{3})+${places > 0 ? '\\.' : '$'})', '\\1,', 'g')`;
  return `(CASE WHEN abs(${sql}) < 1e29 THEN ${masked} ELSE ${long} END)`;
}
