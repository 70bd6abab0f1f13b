'use client';

import { type Model, typeIn } from '@/core/model';
import { type Finding, type LinkPart, type MatchKey, ORDERING } from '@/core/rules';
import { certain, hasTrait, KIND_NAMES } from '@/core/values';
import { CloseOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { Condition } from '@/ui/expression/condition';
import { ExpressionPart } from '@/ui/expression/expression-part';
import { fieldChoices, nameOfField, readFrom } from '@/ui/expression/field-choices';
import { MenuPart } from '@/ui/expression/part';
import type { LinkDraft } from '@/ui/rules/drafts/link-draft';
import type { EditorProps } from './editor-props';

type Matching = Extract<Finding, { kind: 'match' }>;

interface MatchProps extends EditorProps<LinkDraft> {
  readonly find: Matching;
  readonly named: string;
  readonly isWrong: (part: LinkPart) => boolean;
}

/** By what it is found: fields that must be the same, and a condition. */
export function MatchPart({ model, draft, find, named, nameOf, problems, onChange, isWrong }: MatchProps) {
  const put = (next: Partial<Matching>) => onChange({ ...draft, find: { ...find, ...next } });
  const type = certain(draft.type);
  const found = typeIn(model, named);
  const fields = found.fields.filter(
    ({ type: { kind }, key }) => hasTrait(kind, 'matched') && !find.keys.some((one) => one.field === key),
  );
  const putKey = (at: number, key: MatchKey) =>
    put({ keys: find.keys.map((old, index) => (index === at ? key : old)) });
  const isWrongAt = (at: number) => problems.some(({ place }) => place?.startsWith(`keys.${at}`));
  return (
    <>
      {' '}
      with the same{' '}
      {find.keys.map((key, at) => (
        <span key={key.field}>
          {at > 0 ? ' and ' : ''}
          <MenuPart
            label="Field by which it is found"
            text={model.field(named, key.field)?.name ?? key.field}
            hint="a field"
            isWrong={isWrongAt(at)}
            choices={fields.map((field) => ({
              key: field.key,
              name: field.name,
              note: KIND_NAMES[field.type.kind],
            }))}
            onChoose={(field) => putKey(at, { field, value: null })}
          />{' '}
          as its{' '}
          <KeyValue
            {...{ model, type, named }}
            value={key}
            isWrong={isWrongAt(at)}
            onChange={(value) => putKey(at, { ...key, value })}
          />
          {find.keys.length > 1 ? (
            <Button
              type="text"
              size="small"
              aria-label={`Leave ${model.field(named, key.field)?.name ?? key.field} out`}
              icon={<CloseOutlined />}
              onClick={() => put({ keys: find.keys.filter((_, index) => index !== at) })}
            />
          ) : null}
        </span>
      ))}{' '}
      {find.keys.length < 4 && fields.length > 0 ? (
        <MenuPart
          label="Another field by which it is found"
          text="and …"
          hint=""
          choices={fields.map(({ key, name, type: { kind } }) => ({ key, name, note: KIND_NAMES[kind] }))}
          onChoose={(field) => put({ keys: [...find.keys, { field, value: null }] })}
        />
      ) : null}
      ,{' '}
      <MenuPart
        label="Case"
        text={find.ignoresCase ? 'whatever the case' : 'in the same case'}
        hint=""
        choices={[
          { key: 'any', name: 'whatever the case' },
          { key: 'same', name: 'in the same case' },
        ]}
        onChoose={(key) => put({ ignoresCase: key === 'any' })}
      />
      <Condition
        {...{ model, nameOf }}
        type={named}
        condition={find.condition}
        goesOn
        onChange={(condition) => put({ condition })}
      />
      . Of several:{' '}
      <MenuPart
        label="Of several"
        text={find.several === 'ask' ? 'a person is asked' : find.order?.isLast ? 'the last' : 'the first'}
        hint=""
        isWrong={isWrong('several')}
        choices={[
          { key: 'first', name: 'the first' },
          { key: 'last', name: 'the last' },
          { key: 'ask', name: 'a person is asked', note: 'in Today' },
        ]}
        onChoose={(key) =>
          put(
            key === 'ask'
              ? { several: 'ask', order: null }
              : { several: 'first', order: { field: find.order?.field ?? null, isLast: key === 'last' } },
          )
        }
      />
      {find.several === 'first' ? (
        <>
          {' '}
          by{' '}
          <MenuPart
            label="By what several are put in order"
            text={find.order?.field ? nameOfField({ model, type: named }, find.order.field) : null}
            hint="the order of their making"
            isWrong={isWrong('order')}
            choices={[
              { key: ' ', name: 'the order of their making' },
              ...fieldChoices({ model, type: named }, ({ type: { kind } }) => ORDERING.includes(kind)),
            ]}
            onChoose={(key) =>
              put({
                order: { field: key === ' ' ? null : readFrom(key), isLast: find.order?.isLast ?? false },
              })
            }
          />
        </>
      ) : null}
    </>
  );
}

/** What of the record must be the same: a field of it or up its links, or an expression. */
function KeyValue({
  model,
  type,
  named,
  value: { field, value },
  isWrong,
  onChange,
}: {
  model: Model;
  type: string;
  named: string;
  value: MatchKey;
  isWrong: boolean;
  onChange: (value: MatchKey['value']) => void;
}) {
  const kind = model.field(named, field)?.type.kind;
  const name = model.field(named, field)?.name ?? field;
  if (value && value.kind !== 'field')
    return (
      <ExpressionPart
        label={`What ${name} must be the same as`}
        {...{ model, type, isWrong }}
        expression={value}
        onChange={onChange}
      />
    );
  return (
    <MenuPart
      label={`What ${name} must be the same as`}
      text={value ? nameOfField({ model, type }, value) : null}
      hint="a field"
      isWrong={isWrong}
      choices={[
        ...fieldChoices({ model, type }, (one) => one.type.kind === kind, KIND_NAMES),
        { key: ' ', name: 'an expression …' },
      ]}
      onChoose={(key) => onChange(key === ' ' ? { kind: 'feel', text: '' } : readFrom(key))}
    />
  );
}
