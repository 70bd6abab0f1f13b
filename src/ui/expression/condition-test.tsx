'use client';

import type { Expression } from '@/core/expression';
import { OF_RUN, type Operator, operatorEntry, operatorsFor, operatorWords } from '@/core/expression';
import { type WireValue } from '@/core/values';
import { Button, Checkbox, Select } from 'antd';
import { CloseOutlined } from '@ant-design/icons';
import { readTyped, typedText, useToday } from '@/ui/kit/values/typed-input';
import { ValueInput } from '@/ui/kit/values/value-input';
import { fieldChoices, keyOf, nameOfField, readFrom, routesUp, typeOf } from './field-choices';
import type { Choice } from './choices';
import { Done, FormPart, MenuPart } from './part';
import { RelativeChoice } from './relative-date';
import {
  flatten,
  otherFields,
  partsOf,
  prefixed,
  putRight,
  rightText,
  type Scope,
  selectionChoices,
  type SelectionTest,
  type Test,
  testOn,
  withOperator,
  wordsOf,
  type RightProps,
  emptyNote,
} from './condition-model';
import style from './condition-test.module.css';

interface AnyTestProps extends Scope {
  readonly test: Test | SelectionTest;
  /** What stands in the same group. */
  readonly beside: readonly Expression[];
  readonly onChange: (test: Expression | null) => void;
}

export const AnyTest = ({ test, ...props }: AnyTestProps) =>
  test.kind === 'selection' ? (
    <SelectionParts {...props} test={test} />
  ) : (
    <TestParts {...props} test={test} />
  );

/** Whether the record is in a selection. */
function SelectionParts({
  test,
  onChange,
  beside: _beside,
  ...scope
}: Omit<AnyTestProps, 'test'> & { test: SelectionTest }) {
  const name = scope.model.selection(test.selection)?.name ?? test.selection;
  const up = routesUp(scope.model, scope.type).find(({ route }) => route.join('.') === test.route.join('.'));
  return (
    <span className={style.test}>
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
        className={style.testRemove}
        icon={<CloseOutlined />}
        aria-label={`Remove the test on “${name}”`}
        onClick={() => onChange(null)}
      />
    </span>
  );
}

function TestParts({ test, beside, onChange, ...scope }: Omit<AnyTestProps, 'test'> & { test: Test }) {
  const note = emptyNote(test, beside);
  const { read, operator } = partsOf(test);
  const type = typeOf(scope, read);
  const name = nameOfField(scope, read);
  return (
    <span className={style.test}>
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
      {note ? (
        <span className={style.emptyNote}>
          {' '}
          ({note.says}:{' '}
          <button type="button" className="plain part" onClick={() => onChange(note.instead)}>
            {note.other}
          </button>
          )
        </span>
      ) : null}
      <Button
        type="text"
        size="small"
        className={style.testRemove}
        icon={<CloseOutlined />}
        aria-label={`Remove the test on ${name}`}
        onClick={() => onChange(null)}
      />
    </span>
  );
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
  const { usesRunContext = false } = props;
  const who = usesRunContext === false ? null : usesRunContext === true ? 'person' : 'me';
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
          {valueType.kind === 'date' || valueType.kind === 'dateTime' ? (
            <RelativeChoice
              hasHours={valueType.kind === 'dateTime'}
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
          {who === null || valueType.kind !== 'person' ? null : (
            <Checkbox
              checked={right?.kind === 'ofRun'}
              onChange={(event) =>
                onChange(
                  putRight(
                    test,
                    event.target.checked ? { kind: 'ofRun', what: who } : { kind: 'constant', value: null },
                  ),
                )
              }
            >
              or {OF_RUN[who].words}
            </Checkbox>
          )}
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}

interface SeveralProps extends RightProps {
  readonly options: readonly WireValue[];
  readonly onChoose: (options: readonly WireValue[]) => void;
}

function SeveralPart({ options, onChoose, ...props }: SeveralProps) {
  const { valueType } = props;
  const text = options.length === 0 ? null : options.map((option) => wordsOf(props, option)).join(', ');
  const today = useToday();
  // What stands there already stays as it is; what is new is read by the form of whoever types it.
  const asTyped = (text: string): WireValue =>
    options.find((option) => typedText(valueType, option) === text) ?? readTyped(valueType, text, today);
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
            value={options.map((option) => (items ? String(option) : typedText(valueType, option)))}
            options={items}
            placeholder={items ? 'Choose one or several' : 'Type each and press Enter'}
            onChange={(chosen: string[]) => onChoose(items ? chosen : chosen.map(asTyped))}
            style={{ minWidth: 240 }}
          />
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}
