'use client';

import { itemAt, type TextForms } from '@/core/values';
import {
  canBeKey,
  checkImportPlan,
  type ImportColumn,
  type ImportPlan,
  proposeColumns,
  proposeKey,
} from '@/core/intake';
import { type Model, type RecordType } from '@/core/model';
import type { ModelView } from '@/core/api';
import { Radio, Select } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { modelOf, useModelView } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Link } from '@/ui/kit/navigation';
import { isFilledByRule, liveKeeper } from '@/ui/kit/live-keeper';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { ColumnTable } from './column-table';
import { FileChoice } from './file-choice';
import { takeFile } from './handed-file';
import { ImportTask } from './import-task';
import { type Head, proposalOf, readHead, type Reading } from './read-head';
import { ReadingForm } from './reading-form';
import { SHEET, type Table, tablesOf } from './tables';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './import-page.module.css';

/** Takes a file in: which column fills which field, what that would do, and then one run that can be undone. */
export function ImportPage({ type }: { type: string }) {
  const model = useModelView();
  const recordType = model.data?.types.find(({ key }) => key === type);
  if (model.error) return <ProblemNotice error={model.error} />;
  if (!model.data) return <Loading what="the model" />;
  if (!recordType)
    return (
      <div className="place-body">
        <p className="finding">There is no type “{type}”.</p>
        <Link href="/records">Back to the records</Link>
      </div>
    );
  return <ImportInto key={type} view={model.data} type={recordType} />;
}

/** What was chosen: a file with its tables, of which one is taken in. */
interface Chosen {
  readonly file: File;
  readonly tables: readonly Table[];
  readonly at: number;
  readonly head: Head;
  /** Which column fills which field, where another page has said so. */
  readonly columns: readonly ImportColumn[] | null;
}

function ImportInto({ view, type }: { view: ModelView; type: RecordType }) {
  const model = useMemo(() => modelOf(view), [view]);
  const [file, setFile] = useState<File | null>(null);
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const { error, isBusy, run } = useTask();
  const open = (next: Omit<Chosen, 'head'>, said?: Partial<Reading>) =>
    run(
      async () => ({ ...next, head: await readHead(itemAt(next.tables, next.at).file, said) }),
      null,
      setChosen,
    );
  const choose = (picked: File, columns: Chosen['columns'] = null) => {
    setFile(picked);
    setChosen(null);
    return run(
      async () => {
        const tables = await tablesOf(picked);
        return { file: picked, tables, at: 0, columns, head: await readHead(itemAt(tables, 0).file) };
      },
      null,
      setChosen,
    );
  };
  const start = useRef(choose);
  useEffect(() => {
    const handed = takeFile(type.key);
    if (handed) void start.current(handed.file, handed.columns);
  }, [type.key]);
  const table = chosen && itemAt(chosen.tables, chosen.at);
  return (
    <>
      <header className="place-head">
        <h1>
          <Link href={`/records/${type.key}`}>{type.plural}</Link> <span className="quiet">›</span> Import a
          file
        </h1>
        <span className="place-lead">Nothing is saved before you have seen what it would do.</span>
      </header>
      <div className="place-body">
        <FileChoice file={file} onFile={(picked) => void choose(picked)} />
        {chosen && chosen.tables.length > 1 ? (
          <label className={style.sheetChoice}>
            Sheet
            <Select
              aria-label="Sheet"
              value={chosen.at}
              options={chosen.tables.map(({ called }, at) => ({ value: at, label: called }))}
              onChange={(at: number) => void open({ ...chosen, at })}
              style={{ minWidth: 220 }}
            />
          </label>
        ) : null}
        {isBusy ? <p role="status">Reading the file …</p> : null}
        <ProblemNotice error={error} />
        {table ? (
          <Plan
            key={`${table.file.name} ${table.file.size} ${table.file.lastModified} ${JSON.stringify(chosen.head.reading)}`}
            {...{ view, model, type, file: table.file, head: chosen.head, said: chosen.columns }}
            onReading={(said) => void open(chosen, said)}
          />
        ) : null}
      </div>
    </>
  );
}

interface PlanProps {
  readonly view: ModelView;
  readonly model: Model;
  readonly type: RecordType;
  readonly file: File;
  readonly head: Head;
  readonly said: readonly ImportColumn[] | null;
  readonly onReading: (said: Partial<Reading>) => void;
}

function Plan({ view, model, type, file, head, said, onReading }: PlanProps) {
  const keeperOf = (field: string) => liveKeeper(view, type.key, field)?.name;
  const [columns, setColumns] = useState<readonly ImportColumn[]>(
    () => said ?? proposeColumns(type, keeperOf, head.headings),
  );
  const [forms, setForms] = useState<TextForms>(() => proposalOf(head).forms);
  const [key, setKey] = useState<readonly string[]>(() => proposeKey(model, type.key, columns));
  const [refused, setRefused] = useState<ImportPlan['refused']>('stop');
  const [notFound, setNotFound] = useState<'make' | 'refuse'>('make');
  const filled = new Set(columns.map(({ field }) => field));
  const plan: ImportPlan = {
    ...{ ...head.reading, forms, columns, refused },
    key: key.filter((one) => filled.has(one)),
    ...(notFound === 'refuse' && key.some((one) => filled.has(one)) ? { notFound } : {}),
  };
  const isFilled = (field: string) => isFilledByRule(view, type.key, field);
  const problems = checkImportPlan(model, keeperOf, type, plan, isFilled);
  const keys = [
    ...type.fields
      .filter((field) => filled.has(field.key) && canBeKey(field))
      .map(({ key: value, name }) => ({ value, label: name })),
    ...(filled.has('id') ? [{ value: 'id', label: 'Id of the record' }] : []),
  ];
  return (
    <div className={style.importBody}>
      <div>
        <section className={clsx('sheet', style.importPart)} aria-label="How the file is written">
          <h2>How the file is written</h2>
          <ReadingForm
            reading={head.reading}
            isSheet={file.type === SHEET}
            {...{ forms, onReading }}
            onForms={setForms}
          />
        </section>
        <section className={clsx('sheet', style.importPart)} aria-label="Columns">
          <h2>What each column fills</h2>
          <ColumnTable
            {...{ model, type, head, columns, keeperOf }}
            isChanging={plan.key.length > 0}
            onChange={setColumns}
          />
        </section>
        <section className={clsx('sheet', style.importPart)} aria-label="Records that are there">
          <h2>Records that are there already</h2>
          <div className={style.keyChoice}>
            <span>A row changes the {type.name.toLowerCase()} with the same</span>
            <Select
              aria-label="Key"
              mode="multiple"
              showSearch={{ optionFilterProp: 'label' }}
              placeholder="nothing: every row makes a new record"
              value={plan.key as string[]}
              options={keys}
              onChange={setKey}
              style={{ minWidth: 280 }}
            />
          </div>
          {plan.key.length > 0 ? (
            <Radio.Group
              aria-label="What becomes of rows that aren’t found"
              className={kitStyle.stacked}
              value={notFound}
              onChange={(event) => setNotFound(event.target.value as 'make' | 'refuse')}
              options={[
                { value: 'make', label: 'A row that isn’t found makes a new one' },
                {
                  value: 'refuse',
                  label: 'A row that isn’t found is refused: the file corrects what is there',
                },
              ]}
            />
          ) : null}
        </section>
      </div>
      <ImportTask {...{ type, file, plan, problems, refused }} onRefused={setRefused} />
    </div>
  );
}
