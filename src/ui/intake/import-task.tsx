'use client';

import type { checkImportPlan, ImportPlan } from '@/core/intake';
import type { RecordType } from '@/core/model';
import { writeCount } from '@/core/values';
import type { ImportView, Progress } from '@/core/api';
import { Button, Radio } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { saveFile } from '@/ui/kit/download';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { ProgressBar } from '@/ui/kit/progress-bar';
import { nextFile } from './handed-file';
import { ImportResult } from './import-result';
import { refusedText } from './refused-file';
import { sendFile, type Sending, Stopped } from './send-file';
import { clsx } from 'clsx';
import intakeStyle from './intake.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './import-page.module.css';

interface DoingProps {
  readonly type: RecordType;
  readonly file: File;
  readonly plan: ImportPlan;
  readonly problems: ReturnType<typeof checkImportPlan>;
  readonly refused: ImportPlan['refused'];
  readonly onRefused: (refused: ImportPlan['refused']) => void;
}

/** What it would do, and doing it. What was rehearsed for another plan isn't shown any more. */
export function ImportTask({ type, file, plan, problems, refused, onRefused }: DoingProps) {
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
  if (saved) return <Saved {...{ type, file, plan, view: saved }} />;
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
          <RefusedFile {...{ file, plan, view }} />
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

interface SavedProps extends Pick<DoingProps, 'type' | 'file' | 'plan'> {
  readonly view: ImportView;
}

/** The refused rows as a file of their own. */
function RefusedFile({ file, plan, view }: Omit<SavedProps, 'type'>) {
  const { isBusy, error, run } = useTask();
  if (view.refused === 0) return null;
  const name = `${file.name.replace(/\.[^.]*$/, '')}, refused rows.csv`;
  const make = () =>
    run(
      async () => new Blob(['\ufeff', await refusedText(file, plan, view.refusals)], { type: 'text/csv' }),
      null,
      (blob) => saveFile(blob, name),
    );
  return (
    <p>
      <Button size="small" loading={isBusy} onClick={() => void make()}>
        Refused rows as a file
      </Button>{' '}
      <span className="quiet">
        {view.refusals.length < view.refused ? 'The first of them, as' : 'As'} they stand, with why each is
        refused
      </span>
      <ProblemNotice error={error} />
    </p>
  );
}

function Saved({ view, type, file, plan }: SavedProps) {
  const next = nextFile();
  return (
    <section className={clsx('sheet', style.importPart, style.importDoing)} aria-label="Imported">
      <h2>Imported as run {view.run}</h2>
      <p>
        <Link href={`/records/${type.key}`}>See the {type.plural.toLowerCase()}</Link> ·{' '}
        <Link href={`/ledger/${view.run}`}>See the run, or undo it</Link>
      </p>
      {next ? (
        <p>
          <Link href={`/records/${next.type}/import`}>
            <strong>Next: take in {next.plural}</strong>
          </Link>
        </p>
      ) : null}
      <RefusedFile {...{ file, plan, view }} />
      <ImportResult {...{ view, type }} />
    </section>
  );
}
