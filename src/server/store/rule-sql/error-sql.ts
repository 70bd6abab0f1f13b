import type { Typed } from '@/core/expression';
import { unreachable } from '@/core/values';
import { missingRateSql } from './exchange-sql';
import { expressionSql } from './expression-sql';
import type { Reads } from './sql-reader';
import type { ValuePlaces } from '@/server/store/sql/sql';
import { type Arithmetic, dayMoved, isDay, isMonth, monthMoved, operandSql } from './value-sql';

/** The code of the problem that keeps an expression from being worked out, NULL where there is none; `null` where there can be none. */
export function errorSql(node: Typed, reads: Reads, binds: ValuePlaces): string | null {
  const of = (part: Typed) => errorSql(part, reads, binds);
  switch (node.kind) {
    case 'constant':
    case 'ofRun':
      return null;
    case 'field': {
      const error = reads.error(node);
      return error && `(CASE WHEN ${error} THEN 'input_has_problem' END)`;
    }
    case 'compare':
      return firstOf([of(node.left), of(node.right)]);
    case 'presence':
    case 'among':
    case 'negate':
      return of(node.operand);
    case 'match':
      return firstOf([of(node.operand), of(node.part)]);
    case 'selection':
      return of(node.of);
    case 'group':
      return groupErrorSql(node, reads, binds);
    case 'arithmetic':
      return firstOf([of(node.left), of(node.right), ownErrorSql(node, reads, binds)]);
    case 'if': {
      const [then, otherwise] = [of(node.then), of(node.otherwise)];
      const taken =
        then === null && otherwise === null
          ? null
          : `(CASE WHEN ${expressionSql(node.condition, reads, binds)} THEN ${then ?? 'NULL'} ELSE ${otherwise ?? 'NULL'} END)`;
      return firstOf([of(node.condition), taken]);
    }
    case 'call':
      return firstOf(node.arguments.map(of));
    case 'gather':
      return reads.gather(node).error;
    case 'exchange': {
      const sqlOf = (part: Typed) => expressionSql(part, reads, binds);
      return firstOf([of(node.amount), of(node.day), missingRateSql(node, reads, sqlOf)]);
    }
    default:
      return unreachable(node);
  }
}

function firstOf(errors: readonly (string | null)[]): string | null {
  const found = errors.filter((error) => error !== null);
  if (found.length < 2) return found[0] ?? null;
  return `COALESCE(${found.join(', ')})`;
}

/** A part that decides the group makes errors of others no matter. */
function groupErrorSql(
  node: Extract<Typed, { kind: 'group' }>,
  reads: Reads,
  binds: ValuePlaces,
): string | null {
  const errors = node.of.map((part) => errorSql(part, reads, binds));
  const first = firstOf(errors);
  if (first === null) return null;
  const deciding = node.operator === 'all' ? 'NOT ' : '';
  const decided = node.of.map((part, at) => {
    const verdict = `${deciding}${expressionSql(part, reads, binds)}`;
    return errors[at] === null ? verdict : `(${verdict} AND ${errors[at]} IS NULL)`;
  });
  return `(CASE WHEN ${decided.join(' OR ')} THEN NULL ELSE ${first} END)`;
}

/** What goes wrong in the operator itself. Values are bound only for what can go wrong: a bound value must be used. */
function ownErrorSql(node: Arithmetic, reads: Reads, binds: ValuePlaces): string | null {
  const operands = () =>
    [node.left, node.right].map((part) => operandSql(part, (node) => expressionSql(node, reads, binds))) as [
      string,
      string,
    ];
  if (node.working === 'amounts' && node.operator === '/') {
    const [a, b] = operands();
    return `(CASE WHEN ${a} IS NOT NULL AND ${b} = 0 THEN 'division_by_zero' END)`;
  }
  if (node.working === 'days')
    return `(CASE WHEN NOT ${isDay(dayMoved(node.operator, ...operands()))} THEN 'out_of_range' END)`;
  if (node.working === 'months')
    return `(CASE WHEN NOT ${isMonth(monthMoved(node.operator, ...operands()))} THEN 'out_of_range' END)`;
  return null;
}
