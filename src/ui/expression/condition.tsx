'use client';

import { type Expression, type GroupOperator, printFeel } from '@/core/expression';
import { PlusOutlined } from '@ant-design/icons';
import { fieldChoices } from './field-choices';
import { ExpressionPart } from './expression-part';
import { MenuPart } from './part';
import {
  asGroup,
  type FeelText,
  type Group,
  type Scope,
  selectionChoices,
  type SelectionTest,
  simplified,
  type Test,
  testOn,
  TEXT,
} from './condition-model';
import { AnyTest } from './condition-test';
import { clsx } from 'clsx';
import style from './condition.module.css';

export interface ConditionProps extends Scope {
  readonly condition: Expression | null;
  /** Whether the sentence goes on after it. */
  readonly goesOn?: boolean;
  readonly onChange: (condition: Expression | null) => void;
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
      className={clsx('plain', style.conditionText)}
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
              usesRunContext={scope.usesRunContext ?? false}
              onChange={(changed) => put(index, changed)}
            />
          ) : (
            <AnyTest
              {...scope}
              test={part as Test | SelectionTest}
              beside={group.of}
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

function AddTest({
  label,
  onAdd,
  ...scope
}: Scope & { label: string; onAdd: (test: Test | SelectionTest | FeelText) => void }) {
  return (
    <span className={style.conditionAdd}>
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
