import type { CompareOperator, Typed, TypedField } from '@/core/expression';
import type { Half } from '@/core/rules';
import { type Option, unreachable, type Value, type ValueType } from '@/core/values';
import { exchangeSql } from './exchange-sql';
import type { Reads } from './sql-reader';
import { bindType, type ValuePlaces } from '@/server/store/sql/sql';
import { toColumn } from '@/server/store/sql/columns';
import { arithmeticSql, callSql } from './value-sql';

/**
 * An expression as SQL, with the meaning of the core's evaluator: conditions are true or false, never NULL, and nothing
 * raises. Constants are bound.
 */
export function expressionSql(node: Typed, reads: Reads, binds: ValuePlaces): string {
  switch (node.kind) {
    case 'constant':
      return binds.add(toColumn(node.type, node.value), bindType(node.type));
    case 'field':
      return reads.read(node);
    case 'compare':
      return comparisonSql(node, reads, binds);
    case 'presence':
      return `(${expressionSql(node.operand, reads, binds)} IS ${node.operator === 'isEmpty' ? '' : 'NOT '}NULL)`;
    case 'among': {
      const among = `COALESCE(${amongSql(node, reads, binds)}, false)`;
      return node.operator === 'isAmong' ? among : `(NOT ${among})`;
    }
    case 'match':
      return `COALESCE(${matchSql(node, reads, binds)}, false)`;
    case 'group': {
      const parts = node.of.map((part) => expressionSql(part, reads, binds));
      if (node.operator === 'none') return parts.length === 0 ? 'true' : `(NOT (${parts.join(' OR ')}))`;
      if (parts.length === 0) return node.operator === 'all' ? 'true' : 'false';
      return `(${parts.join(node.operator === 'all' ? ' AND ' : ' OR ')})`;
    }
    case 'selection': {
      const inside = expressionSql(node.of, reads, binds);
      return node.operator === 'isIn' ? inside : `(NOT ${inside})`;
    }
    case 'arithmetic':
      return arithmeticSql(node, (part) => expressionSql(part, reads, binds));
    case 'negate':
      return `(- ${expressionSql(node.operand, reads, binds)})`;
    case 'if': {
      const [test, then, otherwise] = [node.condition, node.then, node.otherwise].map((part) =>
        expressionSql(part, reads, binds),
      );
      return `(CASE WHEN ${test} THEN ${then} ELSE ${otherwise} END)`;
    }
    case 'call':
      return callSql(node, (part) => expressionSql(part, reads, binds), binds);
    case 'gather':
      return reads.gather(node).value;
    case 'ofRun':
      // In a run it is a constant (`inRun`).
      throw new RangeError('Only a run says who makes a change, and when');
    case 'exchange':
      return exchangeSql(node, reads, (part) => expressionSql(part, reads, binds));
    default:
      return unreachable(node);
  }
}

/**
 * The same as the condition of a WHERE, where NULL counts as false: tests that every record must pass stand bare, so that
 * PostgreSQL can find those records by an index, also up a route.
 */
export function filterSql(node: Typed, reads: Reads, binds: ValuePlaces): string {
  if (node.kind === 'group' && node.operator === 'all' && node.of.length > 0)
    return `(${node.of.map((part) => filterSql(part, reads, binds)).join(' AND ')})`;
  if (node.kind === 'compare') return comparedSql(node, reads, binds);
  if (node.kind === 'match') return matchSql(node, reads, binds);
  if (node.kind === 'among' && node.operator === 'isAmong') return amongSql(node, reads, binds);
  if (node.kind === 'selection' && node.operator === 'isIn') return filterSql(node.of, reads, binds);
  return expressionSql(node, reads, binds);
}

/** Of one version of a rule that runs beside another: a further condition of a WHERE on its targets. `isOfHalf`. */
export function halfSql(half: Half | undefined, reads: Reads, binds: ValuePlaces): string {
  if (!half) return '';
  return `AND (${filterSql(half.within, reads, binds)}) IS ${half.isOutside ? 'NOT ' : ''}TRUE`;
}

const SQL_OPERATORS: Record<CompareOperator, string> = {
  '=': '=',
  '!=': '<>',
  '<': '<',
  '<=': '<=',
  '>': '>',
  '>=': '>=',
};

type Compare = Extract<Typed, { kind: 'compare' }>;

const comparisonSql = (node: Compare, reads: Reads, binds: ValuePlaces): string =>
  `COALESCE(${comparedSql(node, reads, binds)}, false)`;

/** NULL where a side is empty. */
function comparedSql(node: Compare, reads: Reads, binds: ValuePlaces): string {
  const isRank = node.left.type.kind === 'choice' && node.operator !== '=' && node.operator !== '!=';
  const side = (part: Typed) =>
    isRank
      ? rankSql(node.left.type, expressionSql(part, reads, binds), binds)
      : expressionSql(part, reads, binds);
  return `(${side(node.left)} ${SQL_OPERATORS[node.operator]} ${side(node.right)})`;
}

/** A choice's position among its options. */
export function rankSql(type: ValueType, sql: string, binds: ValuePlaces): string {
  const { options } = type as { options: readonly Option[] };
  return `array_position(${binds.add(
    options.map((option) => option.key),
    'text[]',
  )}, ${sql})`;
}

/** A field by which records are put in order: a choice by the place of its option. */
export function orderKeySql(field: TypedField, reads: Reads, binds: ValuePlaces): string {
  const read = reads.read(field);
  return field.type.kind === 'choice' ? rankSql(field.type, read, binds) : read;
}

/** The option at an end of a choice's order, over the records that count (`only`, a FILTER). */
export function rankedSql(
  type: ValueType,
  value: string,
  end: 'min' | 'max',
  binds: ValuePlaces,
  only = '',
): string {
  const options = type.kind === 'choice' ? type.options.map(({ key }) => key) : [];
  return `(${binds.add(options, 'text[]')})[${end}(${rankSql(type, value, binds)})${only}]`;
}

/** NULL where the operand is empty. */
function amongSql(node: Extract<Typed, { kind: 'among' }>, reads: Reads, binds: ValuePlaces): string {
  const options = node.options.map((option: Value) => toColumn(node.operand.type, option));
  return `(${expressionSql(node.operand, reads, binds)} = ANY(${binds.add(options, `${bindType(node.operand.type)}[]`)}))`;
}

/** NULL where a side is empty. */
function matchSql(node: Extract<Typed, { kind: 'match' }>, reads: Reads, binds: ValuePlaces): string {
  const operand = expressionSql(node.operand, reads, binds);
  const part = expressionSql(node.part, reads, binds);
  if (node.operand.type.kind === 'choices') return `(${part} = ANY(${operand}))`;
  return node.operator === 'contains'
    ? `(position(${part} in ${operand}) > 0)`
    : `starts_with(${operand}, ${part})`;
}
