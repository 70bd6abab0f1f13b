'use client';

import { type Expression, OF_RUN, type Operator, operatorsFor, type RunReading } from '@/core/expression';
import type { FieldRead } from '@/core/rules';
import {
  displayValue,
  parseValue,
  relativeWords,
  type ValueType,
  type WireValue,
  firstIn,
  isUnread,
} from '@/core/values';
import {
  fieldChoices,
  type FieldScope,
  keyOf,
  nameOfField,
  readFrom,
  routesUp,
  typeOf,
} from './field-choices';
import type { Choice } from './choices';

export type Group = Extract<Expression, { kind: 'group' }>;

export type SelectionTest = Extract<Expression, { kind: 'selection' }>;

export type FeelText = Extract<Expression, { kind: 'feel' }>;

/** A test of a field. */
export type Test = Extract<Expression, { kind: 'compare' | 'presence' | 'among' | 'match' }>;

export interface Scope extends FieldScope {
  readonly nameOf: (id: string) => string | undefined;
  /** Whether it may read who makes the change, and when; or who looks. */
  readonly usesRunContext?: RunReading;
}

export const asGroup = (condition: Expression): Group =>
  condition.kind === 'group' ? condition : { kind: 'group', operator: 'all', of: [condition] };

/** A group of one test is kept as the test alone; an empty one as no condition. */
export function simplified(group: Group): Expression | null {
  const [only] = group.of;
  if (!only) return null;
  return group.of.length === 1 && group.operator !== 'none' ? only : group;
}

/** The test that stands while nothing but its field is chosen. */
function firstTest(scope: Scope, read: FieldRead): Test {
  const { kind } = typeOf(scope, read);
  const test = withOperator(read, firstIn(operatorsFor(kind)).operator, null);
  return kind === 'yesNo' ? putRight(test, { kind: 'constant', value: true }) : test;
}

/** What a test says of records where its field is empty, and the tests that say the other. */
export interface EmptyNote {
  readonly says: string;
  /** What a press does. */
  readonly other: string;
  readonly instead: Group;
}

/**
 * Of a test that something isn't so: whether empty counts, which its words leave open. Nothing where a test beside it asks for that, or where what it
 * is compared with isn't chosen yet.
 */
export function emptyNote(test: Test, beside: readonly Expression[]): EmptyNote | null {
  const { read, right, options } = partsOf(test);
  const key = keyOf(read.route, read.field);
  const isAsked = beside.some(
    (one) =>
      one.kind === 'presence' &&
      one.operand.kind === 'field' &&
      keyOf(one.operand.route, one.operand.field) === key,
  );
  const isOpen = right ? right.kind === 'constant' && right.value === null : options.length === 0;
  if (isAsked || isOpen) return null;
  const presence = (operator: 'isEmpty' | 'isNotEmpty'): Expression => ({
    ...{ kind: 'presence', operator, operand: read },
  });
  if (test.operator === '!=')
    return {
      ...{ says: 'not where it is empty', other: 'empty too' },
      instead: { kind: 'group', operator: 'any', of: [test, presence('isEmpty')] },
    };
  if (test.operator === 'isNotAmong')
    return {
      ...{ says: 'also where it is empty', other: 'only where it is filled' },
      instead: { kind: 'group', operator: 'all', of: [test, presence('isNotEmpty')] },
    };
  return null;
}

const SELECTION = 'selection ';

/** The choice that opens an editor; no key of a field has a blank. */
export const TEXT = 'as text';

/** Selections that the record at hand, or one up its links, can be in. */
export function selectionChoices({ model, type }: Scope): Choice[] {
  const of = (at: string, route: readonly string[]) =>
    (model.selections ?? [])
      .filter((selection) => selection.type === at)
      .map(({ key, name }) => ({ key: `${SELECTION}${keyOf(route, key)}`, name: `in “${name}”` }));
  const above = routesUp(model, type).flatMap(({ route, type: at, name }) =>
    of(at, route).map((choice) => ({ ...choice, name: `${name} ${choice.name}` })),
  );
  const children = [...of(type, []), ...above];
  return children.length > 0 ? [{ key: 'selections', name: 'a selection …', children }] : [];
}

export function testOn(scope: Scope, key: string): Test | SelectionTest {
  if (!key.startsWith(SELECTION)) return firstTest(scope, readFrom(key));
  const { route, field } = readFrom(key.slice(SELECTION.length));
  return { kind: 'selection', operator: 'isIn', route, selection: field };
}

/** The three parts of a test, whatever its form in the tree. */
export function partsOf(test: Test): {
  read: FieldRead;
  operator: Operator;
  right: Expression | null;
  options: readonly WireValue[];
} {
  if (test.kind === 'compare')
    return { read: test.left as FieldRead, operator: test.operator, right: test.right, options: [] };
  if (test.kind === 'match')
    return { read: test.operand as FieldRead, operator: test.operator, right: test.part, options: [] };
  if (test.kind === 'among')
    return { read: test.operand as FieldRead, operator: test.operator, right: null, options: test.options };
  return { read: test.operand as FieldRead, operator: test.operator, right: null, options: [] };
}

/** A test with another operator; what stands to the right goes along where it still fits. */
export function withOperator(read: FieldRead, operator: Operator, before: Test | null): Test {
  const old = before ? partsOf(before) : null;
  const constant = old?.right?.kind === 'constant' ? old.right.value : null;
  const right: Expression = old?.right ?? { kind: 'constant', value: old?.options[0] ?? null };
  switch (operator) {
    case 'isEmpty':
    case 'isNotEmpty':
      return { kind: 'presence', operator, operand: read };
    case 'isAmong':
    case 'isNotAmong':
      return {
        kind: 'among',
        operator,
        operand: read,
        options: old && old.options.length > 0 ? old.options : constant === null ? [] : [constant],
      };
    case 'contains':
    case 'startsWith':
      return { kind: 'match', operator, operand: read, part: right };
    default:
      return { kind: 'compare', operator, left: read, right };
  }
}

/** A constant in words; several choices are compared with one of them. */
export function wordsOf({ valueType, nameOf }: RightProps, value: WireValue): string {
  const type: ValueType =
    valueType.kind === 'choices' ? { kind: 'choice', options: valueType.options } : valueType;
  const parsed = parseValue(type, value);
  if (isUnread(value)) return value.typed;
  return parsed.ok
    ? displayValue(type, parsed.value, nameOf)
    : String(typeof value === 'object' && value !== null && 'amount' in value ? value.amount : value);
}

export const putRight = (test: Test, right: Expression): Test =>
  test.kind === 'match' ? { ...test, part: right } : test.kind === 'compare' ? { ...test, right } : test;

export function rightText(props: RightProps): string | null {
  const { right } = partsOf(props.test);
  if (right?.kind === 'field') return nameOfField(props, right);
  if (right?.kind === 'day') return relativeWords(right);
  if (right?.kind === 'ofRun') return OF_RUN[right.what].words;
  return right?.kind === 'constant' && right.value !== null ? wordsOf(props, right.value) : null;
}

/** Other fields of the same kind, on the record or up its links. */
export function otherFields(props: RightProps): Choice[] {
  const { read } = partsOf(props.test);
  return fieldChoices(props, (field) => field.type.kind === props.valueType.kind).filter(
    ({ key }) => key !== keyOf(read.route, read.field),
  );
}

export const prefixed = ({ children, ...choice }: Choice): Choice => ({
  ...choice,
  key: `field ${choice.key}`,
  ...(children ? { children: children.map(prefixed) } : {}),
});

export const flatten = (choices: readonly Choice[]): Choice[] =>
  choices.flatMap((choice) => (choice.children ? flatten(choice.children) : [choice]));

export interface RightProps extends Scope {
  readonly test: Test;
  /** What the tested field holds. */
  readonly valueType: ValueType;
  readonly onChange: (test: Test) => void;
}
