'use client';

import { type TextForms, writeCount } from '@/core/values';
import {
  canBeKey,
  checkImportPlan,
  type ImportColumn,
  type ImportPlan,
  proposeColumns,
  proposeKey,
} from '@/core/intake';
import { type Model, type RecordType } from '@/core/model';
import type { ImportView, ModelView, Progress } from '@/core/api';
import { Button, Radio, Select } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useInvalidate, modelOf, useModelView } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { Link } from '@/ui/kit/navigation';
import { liveKeeper } from '@/ui/kit/live-keeper';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import { ProgressBar } from '@/ui/kit/progress-bar';
import { usePerson } from '@/ui/api/person';
import { ColumnTable } from './column-table';
import { FileChoice } from './file-choice';
import { takeFile } from './handed-file';
import { ImportResult } from './import-result';
import { type Head, proposalOf, readHead, type Reading } from './read-head';
import { ReadingForm } from './reading-form';
import { sendFile, type Sending, Stopped } from './send-file';
import { clsx } from 'clsx';
import intakeStyle from './intake.module.css';
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
  return <ImportInto view={model.data} type={recordType} />;
}

function ImportInto({ view, type }: { view: ModelView; type: RecordType }) {
  const model = useMemo(() => modelOf(view), [view]);
  const [file, setFile] = useState<File | null>(null);
  const [head, setHead] = useState<Head | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const read = async (chosen: File, said?: Partial<Reading>) => {
    setFile(chosen);
    setHead(null);
    setError(null);
    try {
      setHead(await readHead(chosen, said));
    } catch (failure) {
      setError(failure as Error);
    }
  };
  const start = useRef(read);
  useEffect(() => {
    const handed = takeFile();
    if (handed) void start.current(handed);
  }, []);
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
        <FileChoice file={file} onFile={(chosen) => void read(chosen)} />
        <ProblemNotice error={error} />
        {file && head ? (
          <Plan
            key={`${file.name} ${file.lastModified} ${JSON.stringify(head.reading)}`}
            {...{ view, model, type, file, head }}
            onReading={(said) => void read(file, said)}
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
  readonly onReading: (said: Partial<Reading>) => void;
}

function Plan({ view, model, type, file, head, onReading }: PlanProps) {
  const keeperOf = (field: string) => liveKeeper(view, type.key, field)?.name;
  const [columns, setColumns] = useState<readonly ImportColumn[]>(() =>
    proposeColumns(type, keeperOf, head.headings),
  );
  const [forms, setForms] = useState<TextForms>(() => proposalOf(head, []).forms);
  const [key, setKey] = useState<readonly string[]>(() => proposeKey(model, type.key, columns));
  const [refused, setRefused] = useState<ImportPlan['refused']>('stop');
  const filled = new Set(columns.map(({ field }) => field));
  const plan: ImportPlan = {
    ...{ ...head.reading, forms, columns, refused },
    key: key.filter((one) => filled.has(one)),
  };
  const problems = checkImportPlan(model, keeperOf, type, plan);
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
          <ReadingForm reading={head.reading} {...{ forms, onReading }} onForms={setForms} />
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
        </section>
      </div>
      <Task {...{ type, file, plan, problems, refused }} onRefused={setRefused} />
    </div>
  );
}

interface DoingProps {
  readonly type: RecordType;
  readonly file: File;
  readonly plan: ImportPlan;
  readonly problems: ReturnType<typeof checkImportPlan>;
  readonly refused: ImportPlan['refused'];
  readonly onRefused: (refused: ImportPlan['refused']) => void;
}

/** What it would do, and doing it. What was rehearsed for another plan isn't shown any more. */
function Task({ type, file, plan, problems, refused, onRefused }: DoingProps) {
  const person = usePerson();
  const forget = useInvalidate();
  const [sending, setSending] = useState<{
    readonly what: 'rehearse' | 'import';
    readonly share: number;
    readonly at: Progress | null;
  } | null>(null);
  const [rehearsed, setRehearsed] = useState<{ readonly plan: string; readonly view: ImportView } | null>(
    null,
  );
  const [saved, setSaved] = useState<ImportView | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const current = useRef<Sending<ImportView> | null>(null);
  useEffect(() => () => current.current?.stop(), []);
  // What becomes of refused rows doesn't change the rehearsal.
  const print = JSON.stringify({ ...plan, refused: '' });
  const view = rehearsed?.plan === print ? rehearsed.view : null;
  const send = async (what: 'rehearse' | 'import') => {
    setError(null);
    setSending({ what, share: 0, at: null });
    const path = what === 'rehearse' ? 'import-rehearsals' : 'imports';
    const note = what === 'import' ? `?note=${encodeURIComponent(`File ${file.name}`)}` : '';
    current.current = sendFile<ImportView>(
      `/${path}/${type.key}${note}`,
      { plan, file, person: person.id },
      (share) => setSending({ what, share, at: null }),
      (at) => setSending({ what, share: 1, at }),
    );
    try {
      const answer = await current.current.answer;
      if (what === 'rehearse') setRehearsed({ plan: print, view: answer });
      else {
        setSaved(answer);
        await forget.everything();
      }
    } catch (failure) {
      if (!(failure instanceof Stopped)) setError(failure as Error);
    } finally {
      setSending(null);
      current.current = null;
    }
  };
  if (saved) return <Saved view={saved} type={type} />;
  const would = view ? view.created + view.changed : 0;
  const isBlocked = view !== null && view.refused > 0 && refused === 'stop';
  return (
    <section className={clsx('sheet', style.importPart, style.importDoing)} aria-label="What it would do">
      <h2>What it would do</h2>
      {problems.map(({ message }) => (
        <p key={message} className="finding">
          {message}
        </p>
      ))}
      <ProblemNotice error={error} />
      {sending ? (
        <div className={intakeStyle.importProgress} role="status">
          <ProgressBar share={sending.share} at={sending.at} isSaving={sending.what === 'import'} />
          <Button onClick={() => current.current?.stop()}>Stop</Button>
        </div>
      ) : (
        <div className={style.importButtons}>
          <Button
            type={view ? 'default' : 'primary'}
            disabled={problems.length > 0}
            onClick={() => void send('rehearse')}
          >
            {view ? 'Rehearse again' : 'Rehearse the import'}
          </Button>
          {view ? (
            <Button type="primary" disabled={would === 0 || isBlocked} onClick={() => void send('import')}>
              Import {writeCount(would)} {would === 1 ? 'row' : 'rows'}
            </Button>
          ) : null}
        </div>
      )}
      {view ? (
        <>
          {view.refused > 0 ? (
            <Radio.Group
              aria-label="What becomes of refused rows"
              className={kitStyle.stacked}
              value={refused}
              onChange={(event) => onRefused(event.target.value as ImportPlan['refused'])}
              options={[
                { value: 'stop', label: 'Import nothing while rows are refused' },
                { value: 'leaveOut', label: 'Leave the refused rows out' },
              ]}
            />
          ) : null}
          <ImportResult {...{ view, type }} />
        </>
      ) : problems.length === 0 && !sending ? (
        <p className="quiet">
          The rehearsal reads the whole file and works out which records it makes and changes, which rows
          can’t be taken in, and what rules would write. It saves nothing.
        </p>
      ) : null}
    </section>
  );
}

function Saved({ view, type }: { view: ImportView; type: RecordType }) {
  return (
    <section className={clsx('sheet', style.importPart, style.importDoing)} aria-label="Imported">
      <h2>Imported as run {view.run}</h2>
      <p>
        <Link href={`/records/${type.key}`}>See the {type.plural.toLowerCase()}</Link> ·{' '}
        <Link href={`/ledger/${view.run}`}>See the run, or undo it</Link>
      </p>
      <ImportResult {...{ view, type }} />
    </section>
  );
}
