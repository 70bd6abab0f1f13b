'use client';

import { NameInput } from './name-input';
import { type Field, type LinkPolicy, type RecordType } from '@/core/model';
import {
  ALL_KINDS,
  Decimal,
  displaySerial,
  hasTrait,
  type Kind,
  KIND_NAMES,
  kindsInto,
  type ValueType,
} from '@/core/values';
import { Checkbox, Input, InputNumber, Select } from 'antd';
import { useId } from 'react';
import { ValueInput } from '@/ui/kit/values/value-input';
import { OptionSettings, type SettingsProps, type FieldFormProps } from './option-rows';
import modelStyle from '@/ui/model/model.module.css';

/** The settings that a kind begins with. */
export function typeOfKind(kind: Kind, before: ValueType, types: readonly RecordType[]): ValueType {
  if (before.kind === kind) return before;
  switch (kind) {
    case 'number':
      return { kind, scale: 0 };
    case 'money':
      return { kind, currency: 'GBP' };
    case 'rating':
      return { kind, lowest: 1, highest: 5 };
    case 'choice':
    case 'choices':
      return before.kind === 'choice' || before.kind === 'choices'
        ? { ...before, kind }
        : { kind, options: [] };
    case 'link':
      return { kind, target: types[0]?.key ?? '' };
    case 'serial':
      return { kind, prefix: '', digits: 4 };
    default:
      return { kind };
  }
}

export const POLICIES: readonly { value: LinkPolicy; label: string }[] = [
  { value: 'refuse', label: 'the deletion is refused' },
  { value: 'clear', label: 'it loses the link' },
  { value: 'delete', label: 'it is deleted too' },
];

const withoutFlags = ({ required: _required, unique: _unique, ...others }: Field): Field => others;

/** A field's name, kind and settings. */
export function FieldForm({ draft, onChange, before, types, lists }: FieldFormProps) {
  const { field } = draft;
  const ids = useId();
  const id = (name: string) => `${ids}-${name}`;
  const put = (change: Partial<Field>) => onChange({ ...draft, field: { ...field, ...change } });
  const kinds = before ? kindsInto(before.type.kind) : ALL_KINDS;
  const isLink = field.type.kind === 'link';
  const isSerial = field.type.kind === 'serial';
  return (
    <div className={modelStyle.modelForm}>
      <NameInput value={field.name} onChange={(name) => put({ name })} />
      <label htmlFor={id('kind')}>Kind</label>
      <Select
        id={id('kind')}
        value={field.type.kind}
        disabled={kinds.length === 1}
        options={kinds.map((kind) => ({ value: kind, label: KIND_NAMES[kind] }))}
        onChange={(kind: Kind) => {
          const { default: _gone, ...others } = field;
          const kept = kind === 'serial' ? withoutFlags(others) : others;
          onChange({ ...draft, field: { ...kept, type: typeOfKind(kind, field.type, types) } });
        }}
      />
      <KindSettings {...{ draft, onChange, before, types, lists, id }} />
      {isLink ? (
        <>
          <label htmlFor={id('other')}>Name of the other end</label>
          <Input
            id={id('other')}
            maxLength={80}
            value={field.otherEnd ?? ''}
            placeholder="as read from the parent: Loans"
            onChange={(event) => put({ otherEnd: event.target.value })}
          />
          <label htmlFor={id('policy')}>When the parent is deleted</label>
          <Select
            id={id('policy')}
            value={field.whenParentGoes ?? 'refuse'}
            options={[...POLICIES]}
            onChange={(whenParentGoes: LinkPolicy) => put({ whenParentGoes })}
          />
        </>
      ) : null}
      {isSerial ? null : <span />}
      <span hidden={isSerial}>
        <Checkbox
          checked={field.required ?? false}
          onChange={(event) => put({ required: event.target.checked })}
        >
          Required
        </Checkbox>
        {hasTrait(field.type.kind, 'unique') ? (
          <Checkbox
            checked={field.unique ?? false}
            onChange={(event) => put({ unique: event.target.checked })}
          >
            Unique
          </Checkbox>
        ) : null}
      </span>
      {isLink || isSerial || field.type.kind === 'person' ? null : (
        <>
          <label htmlFor={id('default')}>Default</label>
          <ValueInput
            id={id('default')}
            label="Default"
            type={field.type}
            value={field.default ?? null}
            onChange={(value) => put({ default: value })}
          />
        </>
      )}
      {before && !before.required && field.required && !isLink ? (
        <>
          <label htmlFor={id('empty')}>Where it is empty</label>
          <ValueInput
            id={id('empty')}
            label="Where it is empty"
            type={field.type}
            value={draft.whereEmpty ?? null}
            onChange={(whereEmpty) => onChange({ ...draft, whereEmpty })}
          />
        </>
      ) : null}
      <label htmlFor={id('help')}>Help</label>
      <Input
        id={id('help')}
        maxLength={500}
        value={field.help ?? ''}
        placeholder="what people should know when they fill it"
        onChange={(event) => put({ help: event.target.value })}
      />
    </div>
  );
}

function KindSettings(props: SettingsProps) {
  const { draft, onChange, before, types, id } = props;
  const { type } = draft.field;
  const put = (next: ValueType) => onChange({ ...draft, field: { ...draft.field, type: next } });
  switch (type.kind) {
    case 'number':
      return (
        <>
          <label htmlFor={id('scale')}>Decimal places</label>
          <InputNumber
            id={id('scale')}
            min={0}
            max={20}
            precision={0}
            value={type.scale}
            onChange={(scale) => put({ ...type, scale: scale ?? 0 })}
          />
          <label htmlFor={id('unit')}>Unit</label>
          <Input
            id={id('unit')}
            maxLength={20}
            value={type.unit ?? ''}
            placeholder="such as kg"
            onChange={({ target }) => {
              const { unit: _gone, ...others } = type;
              put(target.value === '' ? others : { ...others, unit: target.value });
            }}
          />
        </>
      );
    case 'money':
      return (
        <>
          <label htmlFor={id('currency')}>Currency</label>
          <Input
            id={id('currency')}
            maxLength={3}
            value={type.currency}
            onChange={(event) => put({ ...type, currency: event.target.value.toUpperCase() })}
          />
        </>
      );
    case 'rating':
      return (
        <>
          <label htmlFor={id('lowest')}>Lowest</label>
          <InputNumber
            id={id('lowest')}
            precision={0}
            value={type.lowest}
            onChange={(lowest) => put({ ...type, lowest: lowest ?? 0 })}
          />
          <label htmlFor={id('highest')}>Highest</label>
          <InputNumber
            id={id('highest')}
            precision={0}
            value={type.highest}
            onChange={(highest) => put({ ...type, highest: highest ?? 0 })}
          />
        </>
      );
    case 'choice':
    case 'choices':
      return <OptionSettings {...props} />;
    case 'link':
      return (
        <>
          <label htmlFor={id('target')}>Names records of</label>
          <Select
            id={id('target')}
            value={type.target}
            disabled={before !== null}
            options={types.map(({ key, name }) => ({ value: key, label: name }))}
            showSearch={{ optionFilterProp: 'label' }}
            onChange={(target: string) => put({ ...type, target })}
          />
        </>
      );
    case 'serial':
      return (
        <>
          <label htmlFor={id('prefix')}>Prefix</label>
          <Input
            id={id('prefix')}
            maxLength={20}
            value={type.prefix}
            placeholder="such as INS-"
            onChange={(event) => put({ ...type, prefix: event.target.value })}
          />
          <label htmlFor={id('digits')}>Digits at least</label>
          <InputNumber
            id={id('digits')}
            min={1}
            max={12}
            precision={0}
            value={type.digits}
            onChange={(digits) => put({ ...type, digits: digits ?? 1 })}
          />
          <span />
          <span className="quiet">
            Oikon gives the next number to each new record, the first being{' '}
            {displaySerial(type, new Decimal(1))}. It stays, and is never given twice.
          </span>
        </>
      );
    default:
      return null;
  }
}
