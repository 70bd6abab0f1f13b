import { inRun, type RunContext, type Typed } from '@/core/expression';
import type { CompiledAssigned, CompiledAssignedValue } from '@/core/rules';
import { LONG_TEXT_LENGTH, placesOf, TEXT_LENGTH, type ValueType } from '@/core/values';
import { errorSql } from './error-sql';
import { expressionSql } from './expression-sql';
import { outOfRangeSql } from './result-sql';
import type { RouteJoins } from './route-joins';
import { wordsSql } from './words-sql';
import { columnType, type ValuePlaces } from '@/server/store/sql/sql';

export interface AssignmentSql {
  /** NULL where nothing is assigned, or where it can't be worked out. */
  readonly value: string;
  /** The code of what keeps it from being worked out; `null` where nothing can. */
  readonly error: string | null;
  /** Whether something is assigned, an empty value included; `null` where it always is. */
  readonly isGiven: string | null;
}

/**
 * What a create rule assigns to a field, as SQL on the record that it comes from; the same meaning as `assignedOutcome`.
 */
export function assignmentSql(
  { value, given, target }: CompiledAssigned,
  joins: RouteJoins,
  binds: ValuePlaces,
  facts: RunContext | null,
): AssignmentSql {
  const isGiven = given && expressionSql(given, joins, binds);
  const undecided = given && errorSql(given, joins, binds);
  const worked =
    value.kind === 'text'
      ? textSql(value.parts, target.type, joins, binds)
      : workedSql(inRun(value.value, facts), joins, binds);
  const places = placesOf(target.type);
  const isText = target.type.kind === 'text' || target.type.kind === 'longText';
  const written = isText
    ? `NULLIF(${worked.sql}, '')`
    : places === null
      ? worked.sql
      : `round((${worked.sql})::numeric, ${places})`;
  const outOfRange = outOfRangeSql({ target, map: null }, written);
  const failing = [
    ...(worked.error ? [worked.error] : []),
    ...(outOfRange === 'false' ? [] : [`CASE WHEN ${outOfRange} THEN 'out_of_range' END`]),
  ];
  const own = failing.length > 0 ? `COALESCE(${failing.join(', ')})` : null;
  const ownWhereGiven = own && isGiven ? `CASE WHEN ${isGiven} THEN ${own} END` : own;
  const errors = [undecided, ownWhereGiven].filter((error) => error !== null);
  const error = errors.length > 0 ? `COALESCE(${errors.join(', ')})` : null;
  // What doesn't fit its column must not raise.
  const conditions = [...(isGiven ? [isGiven] : []), ...(error ? [`${error} IS NULL`] : [])];
  const sql = conditions.length > 0 ? `CASE WHEN ${conditions.join(' AND ')} THEN ${written} END` : written;
  return { value: `(${sql})::${columnType(target.type, places ?? 0)}`, error, isGiven };
}

const workedSql = (node: Typed, joins: RouteJoins, binds: ValuePlaces) => ({
  sql: expressionSql(node, joins, binds),
  error: errorSql(node, joins, binds),
});

function textSql(
  parts: Extract<CompiledAssignedValue, { kind: 'text' }>['parts'],
  into: ValueType,
  joins: RouteJoins,
  binds: ValuePlaces,
) {
  const failing: string[] = [];
  const pieces = parts.map((part) => {
    if (typeof part === 'string') return binds.add(part, 'text');
    const error = joins.error(part);
    if (error) failing.push(error);
    return `COALESCE(${wordsSql(part.type, joins.read(part), binds)}, '')`;
  });
  const most = into.kind === 'text' ? TEXT_LENGTH : LONG_TEXT_LENGTH;
  return {
    sql: pieces.length > 0 ? cutSql(pieces.join(' || '), most) : `''`,
    error: failing.length > 0 ? `CASE WHEN ${failing.join(' OR ')} THEN 'input_has_problem' END` : null,
  };
}

/** `cutText`: as many UTF-16 units as fit, of which characters beyond U+FFFF (four bytes in UTF-8) take two each. */
const cutSql = (text: string, most: number): string =>
  `(SELECT CASE WHEN octet_length(whole) <= ${most} THEN whole
    WHEN whole !~ '[\\U00010000-\\U0010FFFF]' THEN left(whole, ${most})
    ELSE (SELECT string_agg(letter, '' ORDER BY place) FROM (
      SELECT letter, place, sum(CASE WHEN octet_length(letter) = 4 THEN 2 ELSE 1 END) OVER (ORDER BY place) AS units
      FROM regexp_split_to_table(whole, '') WITH ORDINALITY AS letters(letter, place)) AS counted WHERE units <= ${most}) END
    FROM (SELECT ${text} AS whole) AS written)`;
