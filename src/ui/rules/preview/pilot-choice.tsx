'use client';

import { firstIn } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import { MOST_IN_PILOT, type Pilot, type RuleDefinition } from '@/core/rules';
import type { FamilyData } from '@/core/verify';
import { Radio, Select } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useFamilies, useRecords } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import style from './pilot-choice.module.css';

interface PilotChoiceProps {
  readonly model: Model;
  readonly definition: RuleDefinition;
  /** `null` for all records; without ids while none are chosen yet. */
  readonly pilot: Pilot | null;
  /** Whether the rule is live for all, so that a change of it is tried beside it. */
  readonly isBeside: boolean;
  readonly onChange: (pilot: Pilot | null) => void;
}

/** For which records a rule runs at first: all of them, chosen ones, or those of a selection. */
export function PilotChoice({ model, definition, pilot, isBeside, onChange }: PilotChoiceProps) {
  const type = typeIn(model, definition.type);
  const selections = (model.selections ?? []).filter((one) => one.type === type.key);
  return (
    <section className={style.pilotChoice} aria-label="For whom it runs">
      <Radio.Group
        aria-label="For which records it runs"
        value={pilot?.kind ?? 'all'}
        onChange={(event) => {
          const kind = event.target.value as 'all' | Pilot['kind'];
          if (kind === 'all') onChange(null);
          else if (kind === 'records') onChange({ kind, ids: [] });
          else onChange({ kind, selection: firstIn(selections).key });
        }}
        options={[
          { value: 'all', label: `For all ${type.plural}` },
          { value: 'records', label: `As a pilot, for some ${type.plural}` },
          ...(selections.length > 0
            ? [{ value: 'selection', label: 'As a pilot, for those of a selection' }]
            : []),
        ]}
      />
      {pilot?.kind === 'records' ? (
        <RecordsChoice model={model} type={type.key} ids={pilot.ids} onChange={onChange} />
      ) : null}
      {pilot?.kind === 'selection' ? (
        <Select
          aria-label="Selection of the pilot"
          value={pilot.selection}
          options={selections.map(({ key, name }) => ({ value: key, label: name }))}
          onChange={(selection: string) => onChange({ kind: 'selection', selection })}
          style={{ minWidth: 240 }}
        />
      ) : null}
      {pilot ? (
        <p className="quiet">
          {isBeside
            ? 'On all others the rule goes on as it is live now. Once you are sure, take the change live for all, or end the pilot.'
            : 'Elsewhere it does nothing: what stands there stands, and people go on entering it. Once you are sure, take it live for all.'}
        </p>
      ) : null}
    </section>
  );
}

/** Most records that are offered at a time. */
const MOST_OFFERED = 50;

interface RecordsChoiceProps {
  readonly model: Model;
  readonly type: string;
  readonly ids: readonly string[];
  readonly onChange: (pilot: Pilot) => void;
}

function RecordsChoice({ model, type, ids, onChange }: RecordsChoiceProps) {
  const [search, setSearch] = useState('');
  // Titles of those that were chosen, once they aren't among those offered any more.
  const [titles, setTitles] = useState<Readonly<Record<string, string>>>({});
  const { data, error } = useRecords(type, { search, limit: MOST_OFFERED });
  const families = useFamilies();
  const { run, isBusy, error: unread } = useTask();
  const { title, plural } = typeIn(model, type);
  const offered = (data?.records ?? []).map(({ id, values }) => ({
    value: id,
    label: String(values[title]),
  }));
  const known: Readonly<Record<string, string>> = {
    ...titles,
    ...Object.fromEntries(offered.map(({ value, label }) => [value, label])),
  };
  const choose = (to: readonly string[], more: Readonly<Record<string, string>> = {}) => {
    setTitles({ ...known, ...more });
    onChange({ kind: 'records', ids: [...new Set(to)].slice(0, MOST_IN_PILOT) });
  };
  const addFamily = (id: string) =>
    run(
      () => callApi<FamilyData>(`/sample-families/${id}`),
      null,
      ({ records, members }) => {
        const own = records.filter((record) => record.type === type && members.includes(record.id));
        choose(
          [...ids, ...own.map((record) => record.id)],
          Object.fromEntries(own.map((record) => [record.id, String(record.values[title])])),
        );
      },
    );
  return (
    <div className={style.pilotRecords}>
      <Select
        mode="multiple"
        aria-label={`${plural} of the pilot`}
        placeholder={`Find ${plural} by their titles`}
        value={[...ids]}
        showSearch={{ filterOption: false, onSearch: setSearch }}
        options={[
          ...ids
            .filter((id) => !offered.some(({ value }) => value === id))
            .map((id) => ({ value: id, label: known[id] ?? id })),
          ...offered,
        ]}
        onChange={(to: string[]) => choose(to)}
      />
      {families.data && families.data.families.length > 0 ? (
        <Select
          aria-label={`Add ${plural} of a sample family`}
          placeholder={`Add the ${plural} of a sample family`}
          value={null}
          loading={isBusy}
          options={families.data.families.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(id: string | null) => id && void addFamily(id)}
        />
      ) : null}
      <ProblemNotice error={error ?? unread} />
    </div>
  );
}
