'use client';

import {
  type Expression,
  type GroupOperator,
  type Operator,
  operatorEntry,
  operatorsFor,
  operatorWords,
  printFeel,
} from '@/core/expression';
import type { FieldRead } from '@/core/rules';
import { displayValue, parseValue, relativeWords, type ValueType, type WireValue } from '@/core/values';
import { Button, Select } from 'antd';
import { CloseOutlined, PlusOutlined } from '@ant-design/icons';
import { ValueInput } from '@/ui/kit/values/value-input';
import {
  fieldChoices,
  type FieldScope,
  keyOf,
  nameOfField,
  readFrom,
  routesUp,
  typeOf,
} from './field-choices';
import { ExpressionPart } from './expression-part';
import { type Choice, Done, FormPart, MenuPart } from './part';
import { RelativeChoice } from './relative-date';
import './expression.css';

type Group = Extract<Expression, { kind: 'group' }>;
type SelectionTest = Extract<Expression, { kind: 'selection' }>;
type FeelText = Extract<Expression, { kind: 'feel' }>;
/** A test of a field. */
type Test = Extract<Expression, { kind: 'compare' | 'presence' | 'among' | 'match' }>;

interface Scope extends FieldScope {
  readonly nameOf: (id: string) => string | undefined;
  /** Whether it may read who makes the change, and when. */
  readonly usesRunContext?: boolean;
}

export interface ConditionProps extends Scope {
  readonly condition: Expression | null;
  /** Whether the sentence goes on after it. */
  readonly goesOn?: boolean;
  readonly onChange: (condition: Expression | null) => void;
}

const asGroup = (condition: Expression): Group =>
  condition.kind === 'group' ? condition : { kind: 'group', operator: 'all', of: [condition] };

/** A group of one test is kept as the test alone; an empty one as no condition. */
function simplified(group: Group): Expression | null {
  const [only] = group.of;
  if (!only) return null;
  return group.of.length === 1 && group.operator !== 'none' ? only : group;
}

/** Which children count, written in place and ending the sentence, unless it goes on: tests joined by and, or, nor; groups within groups. */
export function Condition({ condition, onChange, goesOn = false, ...scope }: ConditionProps) {
  if (!condition) {
    return (
      <span className="condition">
        {goesOn ? ' ' : '. '}
        <AddTest {...scope} label="only where …" onAdd={(test) => onChange(test)} />
      </span>
    );
  }
  return (
    <span className="condition">
      {' '}
      where{' '}
      <GroupParts
        {...scope}
        group={asGroup(condition)}
        onChange={(group) => onChange(simplified(group))}
        isOuter
        goesOn={goesOn}
      />
      <AsText {...scope} condition={condition} onChange={onChange} />
    </span>
  );
}

/** Turns the tests into text, where all of them have one. */
function AsText({
  model,
  type,
  condition,
  onChange,
}: Scope & { condition: Expression; onChange: (condition: Expression) => void }) {
  const text = condition.kind === 'feel' ? null : printFeel(model, type, condition);
  if (text === null) return null;
  return (
    <button
      type="button"
      className="plain condition-text"
      title="Write the whole condition as text"
      onClick={() => onChange({ kind: 'feel', text })}
    >
      as text
    </button>
  );
}

const JOINS: Record<GroupOperator, { readonly word: string; readonly name: string }> = {
  all: { word: 'and', name: 'all of these hold' },
  any: { word: 'or', name: 'any of these holds' },
  none: { word: 'nor', name: 'none of these holds' },
};

function GroupParts({
  group,
  onChange,
  isOuter,
  goesOn = false,
  ...scope
}: Scope & {
  group: Group;
  onChange: (group: Group) => void;
  isOuter: boolean;
  goesOn?: boolean;
}) {
  const put = (index: number, part: Expression | null) =>
    onChange({
      ...group,
      of: part
        ? group.of.map((old, at) => (at === index ? part : old))
        : group.of.filter((_, at) => at !== index),
    });
  const join = (
    <MenuPart
      label="How the tests are joined"
      text={JOINS[group.operator].word}
      hint=""
      choices={Object.entries(JOINS).map(([key, { word, name }]) => ({ key, name: word, note: name }))}
      onChoose={(operator) => onChange({ ...group, operator: operator as GroupOperator })}
    />
  );
  const hasJoin = group.of.length > 1;
  return (
    <>
      {group.operator === 'none' ? <>{hasJoin ? 'neither ' : <>not </>}</> : null}
      {group.of.map((part, index) => (
        <span key={index}>
          {index > 0 ? <> {join} </> : null}
          {part.kind === 'group' ? (
            <span className="condition-group">
              (
              <GroupParts
                {...scope}
                group={part}
                onChange={(changed) => put(index, changed.of.length > 0 ? changed : null)}
                isOuter={false}
              />
              )
            </span>
          ) : part.kind === 'feel' ? (
            <ExpressionPart
              label="A test written as text"
              model={scope.model}
              type={scope.type}
              expression={part}
              isTest
              usesRunContext={scope.usesRunContext === true}
              onChange={(changed) => put(index, changed)}
            />
          ) : (
            <AnyTest
              {...scope}
              test={part as Test | SelectionTest}
              onChange={(changed) => put(index, changed)}
            />
          )}
        </span>
      ))}
      {isOuter && !goesOn ? '. ' : ' '}
      <AddTest
        {...scope}
        label="add a test"
        onAdd={(test) => onChange({ ...group, of: [...group.of, test] })}
      />
      {isOuter && hasJoin ? (
        <AddTest
          {...scope}
          label="add a group"
          onAdd={(test) =>
            onChange({
              ...group,
              of: [
                ...group.of,
                { kind: 'group', operator: group.operator === 'any' ? 'all' : 'any', of: [test] },
              ],
            })
          }
        />
      ) : null}
    </>
  );
}

/** The test that stands while nothing but its field is chosen. */
function firstTest(scope: Scope, read: FieldRead): Test {
  const { kind } = typeOf(scope, read);
  const operator = operatorsFor(kind)[0]!.operator;
  return withOperator(read, operator, null);
}

const SELECTION = 'selection ';
/** The choice that opens an editor; no key of a field has a blank. */
const TEXT = 'as text';

/** Selections that the record at hand, or one up its links, can be in. */
function selectionChoices({ model, type }: Scope): Choice[] {
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

function testOn(scope: Scope, key: string): Test | SelectionTest {
  if (!key.startsWith(SELECTION)) return firstTest(scope, readFrom(key));
  const { route, field } = readFrom(key.slice(SELECTION.length));
  return { kind: 'selection', operator: 'isIn', route, selection: field };
}

function AddTest({
  label,
  onAdd,
  ...scope
}: Scope & { label: string; onAdd: (test: Test | SelectionTest | FeelText) => void }) {
  return (
    <span className="condition-add">
      <PlusOutlined aria-hidden />
      <MenuPart
        label="Add a test on"
        text={label}
        hint=""
        choices={[
          ...fieldChoices(scope),
          ...selectionChoices(scope),
          { key: TEXT, name: 'a test written as text …' },
        ]}
        onChoose={(key) => onAdd(key === TEXT ? { kind: 'feel', text: '' } : testOn(scope, key))}
      />
    </span>
  );
}

/** The three parts of a test, whatever its form in the tree. */
function partsOf(test: Test): {
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

interface AnyTestProps extends Scope {
  readonly test: Test | SelectionTest;
  readonly onChange: (test: Test | SelectionTest | null) => void;
}

const AnyTest = ({ test, ...props }: AnyTestProps) =>
  test.kind === 'selection' ? (
    <SelectionParts {...props} test={test} />
  ) : (
    <TestParts {...props} test={test} />
  );

/** Whether the record is in a selection. */
function SelectionParts({ test, onChange, ...scope }: Omit<AnyTestProps, 'test'> & { test: SelectionTest }) {
  const name = scope.model.selection(test.selection)?.name ?? test.selection;
  const up = routesUp(scope.model, scope.type).find(({ route }) => route.join('.') === test.route.join('.'));
  return (
    <span className="test">
      {up ? `${up.name} ` : ''}
      <MenuPart
        label="Test"
        text={test.operator === 'isIn' ? 'is in' : 'is not in'}
        hint=""
        choices={[
          { key: 'isIn', name: 'is in' },
          { key: 'isNotIn', name: 'is not in' },
        ]}
        onChoose={(operator) => onChange({ ...test, operator: operator as SelectionTest['operator'] })}
      />{' '}
      <MenuPart
        label="Selection"
        text={`“${name}”`}
        hint=""
        choices={selectionChoices(scope)[0]?.children ?? []}
        onChoose={(key) => onChange({ ...(testOn(scope, key) as SelectionTest), operator: test.operator })}
      />
      <Button
        type="text"
        size="small"
        className="test-remove"
        icon={<CloseOutlined />}
        aria-label={`Remove the test on “${name}”`}
        onClick={() => onChange(null)}
      />
    </span>
  );
}

function TestParts({ test, onChange, ...scope }: Scope & { test: Test; onChange: AnyTestProps['onChange'] }) {
  const { read, operator } = partsOf(test);
  const type = typeOf(scope, read);
  const name = nameOfField(scope, read);
  return (
    <span className="test">
      <MenuPart
        label="Field tested"
        text={name}
        hint=""
        choices={[...fieldChoices(scope), ...selectionChoices(scope)]}
        onChoose={(key) => onChange(testOn(scope, key))}
      />{' '}
      <MenuPart
        label="Test"
        text={operatorWords(operator, type.kind)}
        hint=""
        choices={operatorsFor(type.kind).map((entry) => ({
          key: entry.operator,
          name: operatorWords(entry.operator, type.kind),
        }))}
        onChoose={(chosen) => onChange(withOperator(read, chosen as Operator, test))}
      />{' '}
      <RightPart {...scope} test={test} valueType={type} onChange={onChange} />
      <Button
        type="text"
        size="small"
        className="test-remove"
        icon={<CloseOutlined />}
        aria-label={`Remove the test on ${name}`}
        onClick={() => onChange(null)}
      />
    </span>
  );
}

interface RightProps extends Scope {
  readonly test: Test;
  /** What the tested field holds. */
  readonly valueType: ValueType;
  readonly onChange: (test: Test) => void;
}

function RightPart(props: RightProps) {
  const { test, valueType, onChange } = props;
  const side = operatorEntry(test.operator).right;
  if (side === 'nothing') return null;
  if (side === 'several' && test.kind === 'among') {
    return (
      <SeveralPart {...props} options={test.options} onChoose={(options) => onChange({ ...test, options })} />
    );
  }
  const isListed = valueType.kind === 'choice' || valueType.kind === 'choices' || valueType.kind === 'yesNo';
  return isListed ? <ListedPart {...props} /> : <EnteredPart {...props} />;
}

/** A constant in words; several choices are compared with one of them. */
function wordsOf({ valueType, nameOf }: RightProps, value: WireValue): string {
  const type: ValueType =
    valueType.kind === 'choices' ? { kind: 'choice', options: valueType.options } : valueType;
  const parsed = parseValue(type, value);
  return parsed.ok
    ? displayValue(type, parsed.value, nameOf)
    : String(typeof value === 'object' && value !== null && 'amount' in value ? value.amount : value);
}

const putRight = (test: Test, right: Expression): Test =>
  test.kind === 'match' ? { ...test, part: right } : test.kind === 'compare' ? { ...test, right } : test;

function rightText(props: RightProps): string | null {
  const { right } = partsOf(props.test);
  if (right?.kind === 'field') return nameOfField(props, right);
  if (right?.kind === 'day') return relativeWords(right);
  return right?.kind === 'constant' && right.value !== null ? wordsOf(props, right.value) : null;
}

/** Other fields of the same kind, on the record or up its links. */
function otherFields(props: RightProps): Choice[] {
  const { read } = partsOf(props.test);
  return fieldChoices(props, (field) => field.type.kind === props.valueType.kind).filter(
    ({ key }) => key !== keyOf(read.route, read.field),
  );
}

/** One of a few values: chosen from a menu. */
function ListedPart(props: RightProps) {
  const { test, valueType, onChange } = props;
  const listed: Choice[] =
    valueType.kind === 'choice' || valueType.kind === 'choices'
      ? valueType.options.map((option) => ({ key: option.key, name: option.name }))
      : [true, false].map((answer) => ({ key: String(answer), name: answer ? 'yes' : 'no' }));
  const another: Choice[] =
    valueType.kind === 'choices'
      ? []
      : [{ key: 'another', name: 'another field …', children: otherFields(props).map(prefixed) }];
  const choose = (key: string) =>
    onChange(
      putRight(
        test,
        key.startsWith('field ')
          ? readFrom(key.slice(6))
          : { kind: 'constant', value: valueType.kind === 'yesNo' ? key === 'true' : key },
      ),
    );
  return (
    <MenuPart
      label="Compared with"
      text={rightText(props)}
      hint="choose"
      choices={[...listed, ...another]}
      onChoose={choose}
    />
  );
}

/** A value that is entered, or another field. */
function EnteredPart(props: RightProps) {
  const { test, valueType, onChange } = props;
  const { right } = partsOf(test);
  const text = rightText(props);
  const constant = right?.kind === 'constant' ? right.value : null;
  const others = flatten(otherFields(props)).map(({ key }) => ({
    value: key,
    label: nameOfField(props, readFrom(key)),
  }));
  return (
    <FormPart label="Compared with" text={text} hint="enter a value" startsOpen={text === null}>
      {(close) => (
        <>
          <ValueInput
            type={valueType.kind === 'longText' ? { kind: 'text' } : valueType}
            value={constant}
            onChange={(value) => onChange(putRight(test, { kind: 'constant', value }))}
            label="Value"
            autoFocus
          />
          {valueType.kind === 'date' ? (
            <RelativeChoice
              day={right?.kind === 'day' ? right : null}
              onChange={(day) => onChange(putRight(test, day ?? { kind: 'constant', value: null }))}
            />
          ) : null}
          {others.length > 0 ? (
            <Select
              aria-label="Or another field"
              placeholder="or another field"
              allowClear
              value={right?.kind === 'field' ? keyOf(right.route, right.field) : null}
              options={others}
              onChange={(key: string | undefined) =>
                onChange(putRight(test, key ? readFrom(key) : { kind: 'constant', value: null }))
              }
            />
          ) : null}
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}

const prefixed = ({ children, ...choice }: Choice): Choice => ({
  ...choice,
  key: `field ${choice.key}`,
  ...(children ? { children: children.map(prefixed) } : {}),
});
const flatten = (choices: readonly Choice[]): Choice[] =>
  choices.flatMap((choice) => (choice.children ? flatten(choice.children) : [choice]));

interface SeveralProps extends RightProps {
  readonly options: readonly WireValue[];
  readonly onChoose: (options: readonly WireValue[]) => void;
}

function SeveralPart({ options, onChoose, ...props }: SeveralProps) {
  const { valueType } = props;
  const text = options.length === 0 ? null : options.map((option) => wordsOf(props, option)).join(', ');
  const items =
    valueType.kind === 'choice'
      ? valueType.options.map((option) => ({ value: option.key, label: option.name }))
      : undefined;
  return (
    <FormPart label="Compared with" text={text} hint="choose" startsOpen={options.length === 0}>
      {(close) => (
        <>
          <Select
            aria-label="Values"
            autoFocus
            mode={items ? 'multiple' : 'tags'}
            value={options.map(String)}
            options={items}
            placeholder={items ? 'Choose one or several' : 'Type each and press Enter'}
            onChange={(chosen: string[]) => onChoose(chosen)}
            style={{ minWidth: 240 }}
          />
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}
