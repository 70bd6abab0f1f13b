'use client';

import { CURRENCIES, currenciesIn, type ValueType, type WireValue, firstIn } from '@/core/values';
import { DatePicker, Input, Select, Space } from 'antd';
import dayjs from 'dayjs';
import { useState } from 'react';
import { useModel, usePeople, useRecords } from '@/ui/api/queries';

export interface ValueInputProps {
  readonly type: ValueType;
  readonly value: WireValue;
  /** Given what was entered, in wire form; text that isn't a number is passed on as it is, to be told apart by the core. */
  readonly onChange: (value: WireValue) => void;
  readonly label: string;
  readonly id?: string;
  /** The title of a linked record, while it isn't among those loaded. */
  readonly title?: string;
  readonly isWrong?: boolean;
  readonly autoFocus?: boolean;
  /** Opens the list or the calendar at once: where pressing a value means choosing another. */
  readonly startsOpen?: boolean;
}

/** `12,500.00` and `12 500` → `12500.00`: what people type or paste, without the marks between thousands. */
export const digitsOf = (typed: string): string =>
  typed
    .replace(/[\s,\u00a0\u202f]/g, '')
    .replace(/^\+/, '')
    .replace(/\u2212/g, '-');

/** A field for a value of any kind. */
export function ValueInput(props: ValueInputProps) {
  const { type, value, onChange, label, id, isWrong, autoFocus, startsOpen } = props;
  const common = { id, 'aria-label': label, status: isWrong ? ('error' as const) : undefined, autoFocus };
  const opening = { ...common, defaultOpen: startsOpen };
  switch (type.kind) {
    case 'text':
      return (
        <Input
          {...common}
          value={(value as string | null) ?? ''}
          onChange={(event) => onChange(event.target.value)}
        />
      );
    case 'longText':
      return (
        <Input.TextArea
          {...common}
          autoSize={{ minRows: 2, maxRows: 8 }}
          value={(value as string | null) ?? ''}
          onChange={(event) => onChange(event.target.value)}
        />
      );
    case 'number':
      return (
        <DigitsInput
          {...common}
          value={(value as string | null) ?? ''}
          suffix={type.unit}
          onChange={(digits) => onChange(digits || null)}
        />
      );
    case 'money':
      return (
        <DigitsInput
          {...common}
          value={(value as { amount: string } | null)?.amount ?? ''}
          suffix={type.currency}
          onChange={(digits) => onChange(digits ? { amount: digits, currency: type.currency } : null)}
        />
      );
    case 'anyMoney':
      return <AnyMoneyInput {...common} value={value as Amount | null} onChange={onChange} />;
    case 'rating':
      return (
        <Choose {...opening} value={value} onChange={onChange} options={ratings(type.lowest, type.highest)} />
      );
    case 'yesNo':
      return (
        <Choose
          {...opening}
          value={value}
          onChange={onChange}
          options={[true, false].map((answer) => ({ value: answer, label: answer ? 'yes' : 'no' }))}
        />
      );
    case 'choice':
      return (
        <Choose
          {...opening}
          value={value}
          onChange={onChange}
          options={type.options.map((option) => ({ value: option.key, label: option.name }))}
        />
      );
    case 'choices':
      return (
        <Select
          {...opening}
          mode="multiple"
          value={(value as string[] | null) ?? []}
          onChange={(keys: string[]) => onChange(keys)}
          options={type.options.map((option) => ({ value: option.key, label: option.name }))}
          style={{ width: '100%' }}
        />
      );
    case 'date':
      return <DateInput {...opening} value={value as string | null} onChange={onChange} />;
    case 'dateTime':
      return (
        <Input
          {...common}
          placeholder="2027-03-14T09:30:00Z"
          value={(value as string | null) ?? ''}
          onChange={(event) => onChange(event.target.value || null)}
        />
      );
    case 'serial': {
      const digits = String(value ?? '');
      return (
        <Input
          {...common}
          inputMode="numeric"
          prefix={type.prefix ? <span className="quiet">{type.prefix}</span> : undefined}
          value={digits}
          onChange={({ target }) => {
            const typed = target.value.trim();
            const bare = typed.startsWith(type.prefix) ? typed.slice(type.prefix.length) : typed;
            onChange(bare || null);
          }}
        />
      );
    }
    case 'person':
      return <PersonInput {...props} />;
    case 'link':
      return <LinkInput {...props} target={type.target} />;
  }
}

const ratings = (lowest: number, highest: number) =>
  Array.from({ length: highest - lowest + 1 }, (_, index) => ({
    value: lowest + index,
    label: String(lowest + index),
  }));

interface Common {
  readonly id?: string | undefined;
  readonly 'aria-label': string;
  readonly status?: 'error' | undefined;
  readonly autoFocus?: boolean | undefined;
  readonly defaultOpen?: boolean | undefined;
}

function Choose({
  value,
  onChange,
  options,
  ...common
}: Common & {
  value: WireValue;
  onChange: (value: WireValue) => void;
  options: { value: string | number | boolean; label: string }[];
}) {
  return (
    <Select
      {...common}
      allowClear
      showSearch={{ optionFilterProp: 'label' }}
      value={value as string | number | boolean | null}
      placeholder="empty"
      onChange={(chosen) => onChange((chosen as string | undefined) ?? null)}
      options={options as { value: string; label: string }[]}
      style={{ width: '100%', minWidth: 110 }}
    />
  );
}

/** Keeps what is typed as it is typed; cascades the digits. */
function DigitsInput({
  value,
  onChange,
  suffix,
  ...common
}: Common & { value: string; onChange: (digits: string) => void; suffix?: string | undefined }) {
  const [typed, setTyped] = useState<string | null>(null);
  const shown = typed !== null && digitsOf(typed) === value ? typed : value;
  return (
    <Input
      {...common}
      inputMode="decimal"
      value={shown}
      suffix={suffix ? <span className="quiet">{suffix}</span> : undefined}
      onChange={(event) => {
        setTyped(event.target.value);
        onChange(digitsOf(event.target.value));
      }}
      style={{ textAlign: 'right' }}
    />
  );
}

interface Amount {
  readonly amount: string;
  readonly currency: string;
}

/** An amount with the currency that is entered with it. */
function AnyMoneyInput({
  value,
  onChange,
  ...common
}: Common & { value: Amount | null; onChange: (value: Amount | null) => void }) {
  const model = useModel();
  const types = model?.types.flatMap(({ fields }) => fields.map((field) => field.type)) ?? [];
  const usual = currenciesIn(types);
  const [chosen, setChosen] = useState<string | null>(null);
  const currency = value?.currency ?? chosen ?? firstIn(usual);
  const codes = [...usual, ...CURRENCIES.filter((code) => !usual.includes(code))];
  return (
    <Space.Compact block>
      <DigitsInput
        {...common}
        value={value?.amount ?? ''}
        onChange={(digits) => onChange(digits ? { amount: digits, currency } : null)}
      />
      <Select
        aria-label={`${common['aria-label']}, currency`}
        value={currency}
        showSearch
        style={{ width: 84 }}
        popupMatchSelectWidth={false}
        options={codes.map((code) => ({ value: code, label: code }))}
        onChange={(code: string) => {
          setChosen(code);
          if (value) onChange({ ...value, currency: code });
        }}
      />
    </Space.Compact>
  );
}

function DateInput({
  value,
  onChange,
  ...common
}: Common & { value: string | null; onChange: (value: WireValue) => void }) {
  return (
    <DatePicker
      {...common}
      value={value ? dayjs(value) : null}
      format={['D MMM YYYY', 'YYYY-MM-DD', 'D.M.YYYY', 'D/M/YYYY']}
      onChange={(date) => onChange(date ? date.format('YYYY-MM-DD') : null)}
      style={{ width: '100%', minWidth: 130 }}
    />
  );
}

function PersonInput({ value, onChange, label, id, isWrong, autoFocus, startsOpen }: ValueInputProps) {
  const { data } = usePeople();
  const options = (data?.people ?? []).map((person) => ({ value: person.id, label: person.name }));
  return (
    <Choose
      id={id}
      aria-label={label}
      status={isWrong ? 'error' : undefined}
      autoFocus={autoFocus}
      defaultOpen={startsOpen}
      value={value}
      onChange={onChange}
      options={options}
    />
  );
}

const MOST_OFFERED = 50;

/** Finds the record to link to by its title. */
function LinkInput({
  target,
  value,
  onChange,
  label,
  id,
  title,
  isWrong,
  autoFocus,
  startsOpen,
}: ValueInputProps & { target: string }) {
  const [search, setSearch] = useState('');
  const { data, isFetching } = useRecords(target, { search, limit: MOST_OFFERED });
  const titleField = useModel()?.type(target)?.title ?? '';
  const titles = (data?.records ?? []).map((record) => ({
    value: record.id,
    label: String(record.values[titleField] ?? record.id),
  }));
  const options =
    value && title && !search && !titles.some((option) => option.value === value)
      ? [{ value: value as string, label: title }, ...titles]
      : titles;
  return (
    <Select
      id={id}
      aria-label={label}
      status={isWrong ? 'error' : undefined}
      autoFocus={autoFocus}
      defaultOpen={startsOpen}
      allowClear
      showSearch={{ filterOption: false, onSearch: setSearch }}
      loading={isFetching}
      value={value as string | null}
      placeholder="empty"
      notFoundContent={isFetching ? 'Looking …' : 'Nothing has this in its title.'}
      onChange={(chosen: string | undefined) => onChange(chosen ?? null)}
      options={options}
      style={{ width: '100%', minWidth: 140 }}
    />
  );
}
