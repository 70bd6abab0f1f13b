'use client';

import { Button, Input, Select } from 'antd';
import { useModelView, usePeople, useRules } from '@/ui/api/queries';
import { withFilter } from '@/ui/kit/hooks/use-address-filters';
import { RUN_WORDS } from '@/ui/kit/run-words';
import { DateInput } from '@/ui/kit/values/date-input';
import style from './run-filters.module.css';

export const RUN_FILTERS = ['search', 'person', 'kind', 'rule', 'type', 'from', 'to'] as const;
export type RunFilterName = (typeof RUN_FILTERS)[number];
export type RunFilters = Readonly<Partial<Record<RunFilterName, string>>>;

export interface RunFiltersProps {
  readonly filters: RunFilters;
  readonly onFilters: (filters: RunFilters) => void;
}

/** What the ledger is narrowed to. */
export function RunFilterBar({ filters, onFilters }: RunFiltersProps) {
  const people = usePeople().data?.people ?? [];
  const rules = useRules().data?.rules ?? [];
  const types = useModelView().data?.types ?? [];
  const set = (name: RunFilterName, value: string | undefined) => onFilters(withFilter(filters, name, value));
  const choice = (
    name: RunFilterName,
    label: string,
    options: readonly { readonly value: string; readonly label: string }[],
  ) => (
    <Select
      allowClear
      showSearch={{ optionFilterProp: 'label' }}
      popupMatchSelectWidth={false}
      className={style.choice}
      aria-label={label}
      placeholder={label}
      value={filters[name]}
      options={[...options]}
      onChange={(value?: string) => set(name, value)}
    />
  );
  return (
    <search className={style.filters}>
      <Input.Search
        key={filters.search ?? ''}
        allowClear
        className={style.search}
        aria-label="Search the ledger"
        placeholder="Search notes, or a run’s number"
        defaultValue={filters.search}
        onSearch={(text) => set('search', text.trim())}
      />
      {choice('person', 'Who', [
        ...people.map(({ id, name }) => ({ value: id, label: name })),
        { value: 'none', label: 'Oikon' },
      ])}
      {choice(
        'kind',
        'What',
        Object.entries(RUN_WORDS).map(([value, label]) => ({ value, label })),
      )}
      {choice(
        'rule',
        'Rule',
        rules.map(({ id, name }) => ({ value: id, label: name })),
      )}
      {choice(
        'type',
        'Type',
        types.map(({ key, plural }) => ({ value: key, label: plural })),
      )}
      <Day label="From" day={filters.from} onDay={(day) => set('from', day)} />
      <Day label="To" day={filters.to} onDay={(day) => set('to', day)} />
      {Object.keys(filters).length > 0 ? (
        <Button type="link" onClick={() => onFilters({})}>
          Show all
        </Button>
      ) : null}
    </search>
  );
}

interface DayProps {
  readonly label: string;
  readonly day: string | undefined;
  readonly onDay: (day: string | undefined) => void;
}

/** A day, once it is read; while it is typed nothing is looked for. */
function Day({ label, day, onDay }: DayProps) {
  return (
    <span className={style.day}>
      <span className="quiet" aria-hidden>
        {label}
      </span>
      <DateInput
        key={day ?? ''}
        aria-label={label}
        value={day ?? null}
        onChange={() => undefined}
        onTaken={(value) => onDay(typeof value === 'string' ? value : undefined)}
      />
    </span>
  );
}
