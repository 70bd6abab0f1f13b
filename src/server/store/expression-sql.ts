import type { CompareOperator, Typed, TypedField } from '@/core/expression';
import { type Option, unreachable, type Value, type ValueType } from '@/core/values';
import { bindType, type ValuePlaces } from './sql';
import { toColumn } from './values';

/** Gives the SQL for a field: its column on the right alias. */
export type FieldSql = (field: TypedField) => string;

/**
 * An expression as SQL, with the meaning of the core's evaluator: conditions are true or false, never NULL, and nothing
 * raises. Constants are bound.
 */
export function expressionSql(node: Typed, field: FieldSql, binds: ValuePlaces): string {
  switch (node.kind) {
    case 'constant':
      return binds.add(toColumn(node.type, node.value), bindType(node.type));
    case 'field':
      return field(node);
    case 'compare':
      return comparisonSql(node, field, binds);
    case 'presence':
      return `(${expressionSql(node.operand, field, binds)} IS ${node.operator === 'isEmpty' ? '' : 'NOT '}NULL)`;
    case 'among': {
      const among = `COALESCE(${amongSql(node, field, binds)}, false)`;
      return node.operator === 'isAmong' ? among : `(NOT ${among})`;
    }
    case 'match':
      return `COALESCE(${matchSql(node, field, binds)}, false)`;
    case 'group': {
      const parts = node.of.map((part) => expressionSql(part, field, binds));
      if (node.operator === 'none') return parts.length === 0 ? 'true' : `(NOT (${parts.join(' OR ')}))`;
      if (parts.length === 0) return node.operator === 'all' ? 'true' : 'false';
      return `(${parts.join(node.operator === 'all' ? ' AND ' : ' OR ')})`;
    }
    case 'selection': {
      const inside = expressionSql(node.of, field, binds);
      return node.operator === 'isIn' ? inside : `(NOT ${inside})`;
    }
    default:
      return unreachable(node);
  }
}

/**
 * The same as the condition of a WHERE, where NULL counts as false: tests that every record must pass stand bare, so that
 * PostgreSQL can find those records by an index, also up a route.
 */
export function filterSql(node: Typed, field: FieldSql, binds: ValuePlaces): string {
  if (node.kind === 'group' && node.operator === 'all' && node.of.length > 0)
    return `(${node.of.map((part) => filterSql(part, field, binds)).join(' AND ')})`;
  if (node.kind === 'compare') return comparedSql(node, field, binds);
  if (node.kind === 'match') return matchSql(node, field, binds);
  if (node.kind === 'among' && node.operator === 'isAmong') return amongSql(node, field, binds);
  if (node.kind === 'selection' && node.operator === 'isIn') return filterSql(node.of, field, binds);
  return expressionSql(node, field, binds);
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

const comparisonSql = (node: Compare, field: FieldSql, binds: ValuePlaces): string =>
  `COALESCE(${comparedSql(node, field, binds)}, false)`;

/** NULL where a side is empty. */
function comparedSql(node: Compare, field: FieldSql, binds: ValuePlaces): string {
  const isRank = node.left.type.kind === 'choice' && node.operator !== '=' && node.operator !== '!=';
  const side = (part: Typed) =>
    isRank
      ? rankSql(node.left.type, expressionSql(part, field, binds), binds)
      : expressionSql(part, field, binds);
  return `(${side(node.left)} ${SQL_OPERATORS[node.operator]} ${side(node.right)})`;
}

/** A choice's position among its options. */
function rankSql(type: ValueType, sql: string, binds: ValuePlaces): string {
  const { options } = type as { options: readonly Option[] };
  return `array_position(${binds.add(
    options.map((option) => option.key),
    'text[]',
  )}, ${sql})`;
}

/** NULL where the operand is empty. */
function amongSql(node: Extract<Typed, { kind: 'among' }>, field: FieldSql, binds: ValuePlaces): string {
  const options = node.options.map((option: Value) => toColumn(node.operand.type, option));
  return `(${expressionSql(node.operand, field, binds)} = ANY(${binds.add(options, `${bindType(node.operand.type)}[]`)}))`;
}

/** NULL where a side is empty. */
function matchSql(node: Extract<Typed, { kind: 'match' }>, field: FieldSql, binds: ValuePlaces): string {
  const operand = expressionSql(node.operand, field, binds);
  const part = expressionSql(node.part, field, binds);
  if (node.operand.type.kind === 'choices') return `(${part} = ANY(${operand}))`;
  return node.operator === 'contains'
    ? `(position(${part} in ${operand}) > 0)`
    : `starts_with(${operand}, ${part})`;
}
