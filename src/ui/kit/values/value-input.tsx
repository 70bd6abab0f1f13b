'use client';

import { CURRENCIES, currenciesIn, isUnread, type ValueType, type WireValue, firstIn } from '@/core/values';
import { Input, Select, Space } from 'antd';
import { useState } from 'react';
import { useModel, toChoose, usePeople, useRecords } from '@/ui/api/queries';
import { DateInput } from './date-input';
import { type Common, TypedInput } from './typed-input';
import typedStyle from './typed-input.module.css';

export interface ValueInputProps {
  readonly type: ValueType;
  readonly value: WireValue;
  /** Given what was entered, in wire form; what can't be read by the person's form as it was typed, with why. */
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
    case 'money': {
      const unit = type.kind === 'money' ? type.currency : type.unit;
      return (
        <TypedInput
          {...common}
          {...{ type, value, onChange }}
          suffix={unit ? <span className="quiet">{unit}</span> : undefined}
        />
      );
    }
    case 'anyMoney':
      return <AnyMoneyInput {...common} value={value} onChange={onChange} />;
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
      return <DateInput {...common} value={value} onChange={onChange} />;
    case 'dateTime':
      return <TypedInput {...common} {...{ type, value, onChange }} placeholder="day and time" />;
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

function Choose({
  value,
  onChange,
  options,
  ...common
}: Common & {
  defaultOpen?: boolean | undefined;
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

/** An amount with the currency that is entered with it. */
function AnyMoneyInput({
  value,
  onChange,
  ...common
}: Common & { value: WireValue; onChange: (value: WireValue) => void }) {
  const model = useModel();
  const types = model?.types.flatMap(({ fields }) => fields.map((field) => field.type)) ?? [];
  const usual = currenciesIn(types);
  const [chosen, setChosen] = useState<string | null>(null);
  const amount = isAmount(value) ? value : null;
  const currency = amount?.currency ?? chosen ?? firstIn(usual);
  const codes = [...usual, ...CURRENCIES.filter((code) => !usual.includes(code))];
  return (
    <>
      <Space.Compact block>
        <TypedInput {...common} {...{ value, onChange }} type={{ kind: 'money', currency }} isTold={false} />
        <Select
          aria-label={`${common['aria-label']}, currency`}
          value={currency}
          showSearch
          style={{ width: 84 }}
          popupMatchSelectWidth={false}
          options={codes.map((code) => ({ value: code, label: code }))}
          onChange={(code: string) => {
            setChosen(code);
            if (amount) onChange({ ...amount, currency: code });
          }}
        />
      </Space.Compact>
      {isUnread(value) ? (
        <span role="alert" className={typedStyle.why}>
          {value.why}
        </span>
      ) : null}
    </>
  );
}

const isAmount = (value: WireValue): value is { amount: string; currency: string } =>
  typeof value === 'object' && value !== null && 'amount' in value;

function PersonInput({ value, onChange, label, id, isWrong, autoFocus, startsOpen }: ValueInputProps) {
  const { data } = usePeople();
  const options = toChoose(data?.people ?? [], value).map(({ id: one, name }) => ({
    value: one,
    label: name,
  }));
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
  const [isWanted, setWanted] = useState(startsOpen === true);
  // What is chosen has to be called by its title from the first.
  const isNameless = value !== null && !title;
  const { data, isFetching } = useRecords(isWanted || isNameless ? target : null, {
    search,
    limit: MOST_OFFERED,
  });
  const titleField = useModel()?.type(target)?.title ?? '';
  const titles = (data?.records ?? []).map((record) => ({
    value: record.id,
    label: String(record.values[titleField] ?? record.id),
  }));
  const options =
    typeof value === 'string' && (!search || isNameless) && !titles.some((option) => option.value === value)
      ? [{ value, label: title ?? 'Looking …' }, ...titles]
      : titles;
  return (
    <Select
      id={id}
      aria-label={label}
      status={isWrong ? 'error' : undefined}
      autoFocus={autoFocus}
      defaultOpen={startsOpen}
      onFocus={() => setWanted(true)}
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
