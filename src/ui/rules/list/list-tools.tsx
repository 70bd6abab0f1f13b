'use client';

import type { RuleView } from '@/core/api';
import { writeCount } from '@/core/values';
import type { ReactNode } from 'react';
import { withFilter } from '@/ui/kit/hooks/use-address-filters';
import { Button, Checkbox, Input, Segmented, Select } from 'antd';
import {
  type Beside,
  choicesOf,
  type FilterName,
  FILTERS,
  type Filters,
  type Grouping,
  GROUPINGS,
} from './rule-list-model';
import style from './list-tools.module.css';

const NAMES: Readonly<Record<FilterName, string>> = {
  type: 'Type',
  kind: 'Kind',
  state: 'State',
  pace: 'Pace',
  proofs: 'Proofs',
  findings: 'Findings',
  request: 'Request',
  tag: 'Tag',
};

export interface ListToolsProps {
  readonly rules: readonly RuleView[];
  readonly beside: Beside;
  readonly shown: readonly RuleView[];
  readonly filters: Filters;
  readonly onFilters: (filters: Filters) => void;
  readonly by: Grouping;
  readonly onBy: (by: Grouping) => void;
  readonly isWhole: boolean;
  readonly onWhole: (isWhole: boolean) => void;
  readonly marked: ReadonlySet<string>;
  readonly onMark: (marked: ReadonlySet<string>) => void;
  /** Stands beside how many there are. */
  readonly children?: ReactNode;
}

/** What narrows the list, what it is put together by, and how each rule is shown. */
export function ListTools(props: ListToolsProps) {
  const { rules, shown, filters, onFilters, by, onBy, isWhole, onWhole, marked, onMark, children } = props;
  const isNarrowed = Object.keys(filters).length > 0;
  const areAll = shown.length > 0 && shown.every(({ id }) => marked.has(id));
  const markAll = () => onMark(areAll ? new Set() : new Set(shown.map(({ id }) => id)));
  return (
    <search className={style.tools}>
      <div className={style.line}>
        <Input.Search
          className={style.search}
          allowClear
          aria-label="Search rules"
          placeholder="Search names, sentences, notes and fields"
          value={filters.search ?? ''}
          onChange={(event) => onFilters(withFilter(filters, 'search', event.target.value))}
        />
        <label className={style.by}>
          Under
          <Select<Grouping>
            value={by}
            aria-label="Put together by"
            onChange={onBy}
            options={GROUPINGS.map((value) => ({ value, label: NAMES[value].toLowerCase() }))}
          />
        </label>
        <Segmented
          aria-label="How rules are shown"
          value={isWhole}
          onChange={onWhole}
          options={[
            { value: true, label: 'Sentences' },
            { value: false, label: 'Lines' },
          ]}
        />
      </div>
      <div className={style.line}>
        <Checkbox
          checked={areAll}
          indeterminate={!areAll && shown.some(({ id }) => marked.has(id))}
          onChange={markAll}
        >
          {isNarrowed
            ? `${writeCount(shown.length)} of ${writeCount(rules.length)} rules`
            : `${writeCount(rules.length)} rules`}
        </Checkbox>
        {children}
        <span className={style.filters}>
          {FILTERS.map((filter) => (
            <Filter key={filter} filter={filter} {...props} />
          ))}
          {isNarrowed ? (
            <Button type="link" size="small" onClick={() => onFilters({})}>
              Show all
            </Button>
          ) : null}
        </span>
      </div>
    </search>
  );
}

function Filter({ filter, rules, beside, filters, onFilters }: ListToolsProps & { filter: FilterName }) {
  const choices = choicesOf(filter, rules, beside);
  const chosen = filters[filter];
  if (choices.length < 2 && chosen === undefined) return null;
  return (
    <Select
      size="small"
      allowClear
      showSearch={{ optionFilterProp: 'label' }}
      popupMatchSelectWidth={false}
      aria-label={NAMES[filter]}
      placeholder={NAMES[filter]}
      className={chosen === undefined ? style.filter : style.chosen}
      value={chosen}
      options={[...choices]}
      onChange={(value?: string) => onFilters(withFilter(filters, filter, value))}
    />
  );
}
