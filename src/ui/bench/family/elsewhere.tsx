'use client';

import { certain, formInUse, PLAIN_FORMS } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import {
  expectedByFormula,
  expectedDifferences,
  type ExpectedValue,
  familyAfter,
  familyStore,
  readExpected,
  type ReadExpected,
  type WireRecord,
} from '@/core/verify';
import { Button, Input, Segmented, Select, Upload } from 'antd';
import Papa from 'papaparse';
import { useState } from 'react';
import type { RuleWorkerSetup } from '@/ui/workers/rule-worker';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './elsewhere.module.css';

interface ElsewhereProps {
  readonly model: Model;
  readonly setup: RuleWorkerSetup;
  /** Members of the family as they would stand. */
  readonly standing: readonly WireRecord[];
  readonly values: readonly ExpectedValue[];
  readonly onChange: (values: readonly ExpectedValue[]) => void;
}

/** Most problems and differences that are told one by one. */
const MOST_TOLD = 8;

/** Values that were worked out apart from the rule: in a file, or by a formula of one's own. What differs from what the rule gives is told. */
export function Elsewhere({ model, setup, standing, values, onChange }: ElsewhereProps) {
  const [way, setWay] = useState<'file' | 'formula'>('file');
  const [problems, setProblems] = useState<readonly string[]>([]);
  const known = new Map(standing.map(({ id, type, values: held }) => [id, held[typeIn(model, type).title]]));
  const nameOf = (id: string) => setup.people[id] ?? textOf(known.get(id)) ?? setup.family.names[id];
  const differences = expectedDifferences(model, standing, values, nameOf);
  const take = (read: ReadExpected) => {
    setProblems(read.problems);
    onChange(read.values);
  };
  return (
    <fieldset className={kitStyle.keepExpected}>
      <legend>Worked out elsewhere</legend>
      <Segmented
        size="small"
        aria-label="Where expected values come from"
        value={way}
        options={[
          { value: 'file', label: 'A file' },
          { value: 'formula', label: 'A formula of my own' },
        ]}
        onChange={setWay}
      />
      {way === 'file' ? (
        <FromFile {...{ model, standing }} onRead={take} />
      ) : (
        <FromFormula {...{ model, setup, standing }} onRead={take} />
      )}
      <div aria-live="polite">
        {problems.length > 0 ? (
          <ul className={style.keepProblems}>
            {problems.slice(0, MOST_TOLD).map((words) => (
              <li key={words} className={kitStyle.proofFails}>
                {words}
              </li>
            ))}
            {problems.length > MOST_TOLD ? <li>And {problems.length - MOST_TOLD} more.</li> : null}
          </ul>
        ) : null}
        {values.length > 0 ? (
          <p>
            <strong>
              {`${values.length} ${values.length === 1 ? 'value' : 'values'} expected; ${
                differences.length === 0
                  ? 'the rule gives all of them'
                  : `${differences.length} ${differences.length === 1 ? 'differs' : 'differ'} from what the rule gives`
              }.`}
            </strong>{' '}
            <Button size="small" type="text" onClick={() => take({ values: [], problems: [] })}>
              Leave them out
            </Button>
          </p>
        ) : null}
        {differences.length > 0 ? (
          <ul className={style.keepProblems}>
            {differences.slice(0, MOST_TOLD).map(({ id, field, words }) => (
              <li key={`${id} ${field}`}>{words}</li>
            ))}
            {differences.length > MOST_TOLD ? <li>And {differences.length - MOST_TOLD} more.</li> : null}
          </ul>
        ) : null}
      </div>
    </fieldset>
  );
}

const textOf = (value: unknown): string | undefined => (typeof value === 'string' ? value : undefined);

const COLUMNS = ['record', 'field', 'expected'] as const;

function FromFile({
  model,
  standing,
  onRead,
}: Pick<ElsewhereProps, 'model' | 'standing'> & { readonly onRead: (read: ReadExpected) => void }) {
  const read = async (file: File) => {
    const { data, meta } = Papa.parse<Record<string, string>>((await file.text()).replace(/^\ufeff/, ''), {
      ...{ header: true, skipEmptyLines: true, transformHeader: (name) => name.trim().toLowerCase() },
    });
    const missing = COLUMNS.filter((column) => !meta.fields?.includes(column));
    if (missing.length > 0)
      return onRead({
        values: [],
        problems: [
          `The file needs the columns record, field and expected; it has no ${missing.join(', ')}. Name them in its first line.`,
        ],
      });
    const lines = data.map(({ record = '', field = '', expected = '' }, at) => ({
      ...{ line: at + 2, record, field, expected },
    }));
    onRead(readExpected(model, standing, lines, { ...PLAIN_FORMS, ...formInUse() }));
  };
  return (
    <div className={style.keepElsewhere}>
      <Upload
        accept=".csv,text/csv"
        showUploadList={false}
        beforeUpload={(file) => {
          read(file).catch((error: unknown) =>
            onRead({ values: [], problems: [`The file can’t be read: ${(error as Error).message}`] }),
          );
          return false;
        }}
      >
        <Button size="small">Choose a CSV file</Button>
      </Upload>
      <span className="quiet">with the columns record, field, expected</span>
    </div>
  );
}

function FromFormula({
  model,
  setup,
  standing,
  onRead,
}: Pick<ElsewhereProps, 'model' | 'setup' | 'standing'> & { readonly onRead: (read: ReadExpected) => void }) {
  const types = [...new Set(standing.map(({ type }) => type))].map((key) => typeIn(model, key));
  const [type, setType] = useState(setup.family.root.type);
  const fields = model.type(type)?.fields ?? [];
  const [field, setField] = useState<string | null>(null);
  const [text, setText] = useState('');
  const work = () => {
    const store = familyStore(model, familyAfter(model, setup.family, standing));
    onRead(
      expectedByFormula(model, store, {
        type,
        field: certain(field),
        text,
        among: new Set(standing.map(({ id }) => id)),
      }),
    );
  };
  return (
    <div className={clsx(style.keepElsewhere, style.keepFormula)}>
      <Select
        size="small"
        aria-label="Type of the formula"
        value={type}
        options={types.map(({ key, name }) => ({ value: key, label: name }))}
        onChange={(to: string) => {
          setType(to);
          setField(null);
        }}
      />
      <Select
        size="small"
        aria-label="Field of the formula"
        placeholder="Field"
        value={field}
        showSearch={{ optionFilterProp: 'label' }}
        options={fields.map(({ key, name }) => ({ value: key, label: name }))}
        onChange={setField}
      />
      <Input
        size="small"
        aria-label="Formula"
        className="mono"
        placeholder="sum(loans.insuredValue)"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button size="small" disabled={field === null || text.trim() === ''} onClick={work}>
        Work it out
      </Button>
    </div>
  );
}
