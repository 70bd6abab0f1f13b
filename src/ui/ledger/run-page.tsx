'use client';

import type { RunView } from '@/core/api';
import { Link } from '@/ui/kit/navigation';
import { useRun, useRunLeft } from '@/ui/api/ledger-queries';
import { Term } from '@/ui/help/term';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { Ripple } from '@/ui/kit/explain/ripple';
import { LeftList } from '@/ui/kit/explain/ripple-lists';
import { RUN_WORDS } from '@/ui/kit/run-words';
import { RunCounts } from './run-counts';
import { RunInGroups } from './run-in-groups';
import { when } from '@/ui/kit/values/when';
import { UndoButton } from './undo-dialog';
import { clsx } from 'clsx';
import style from './run-page.module.css';

/** One run, opened as its whole ripple: what was entered, and wave by wave what followed. */
export function RunPage({ run }: { run: string }) {
  const { data, error } = useRun(run);
  const waves = data?.waves ?? [];
  return (
    <>
      <header className="place-head">
        <nav aria-label="Way here">
          <Link href="/ledger">Ledger</Link>
        </nav>
        <h1>Run {run}</h1>
        {data ? (
          <span className="place-lead">
            {data.person ?? 'Oikon'} {RUN_WORDS[data.kind]} on <time dateTime={data.at}>{when(data.at)}</time>
            {data.note ? `: ${data.note}` : ''}
          </span>
        ) : null}
        {data && isByPeople(data) ? (
          <span className="place-actions">
            <UndoButton run={run} />
          </span>
        ) : null}
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        {data?.counts && data.counts.length > 0 ? <RunCounts counts={data.counts} /> : null}
        {data ? (
          <section className={clsx('sheet', style.runRipple)} aria-label="Ripple">
            <div className="sheet-head">
              <h2>
                <Term of="ripple">Ripple</Term>
              </h2>
            </div>
            {waves.length === 0 ? (
              <div className="nothing">
                <strong>It changed no record</strong>
                Every value was right already.
              </div>
            ) : data.next === null ? (
              <Ripple ripple={{ waves }} firstName={firstNameOf(data)} linked />
            ) : (
              <RunInGroups run={run} firstName={firstNameOf(data)} />
            )}
            {isByPeople(data) ? <LeftInRun run={run} /> : null}
          </section>
        ) : error ? null : (
          <Loading what="the run" />
        )}
      </div>
    </>
  );
}

/** What was saved, imported or edited as a list: it can be undone, and rules looked at what it touched. */
const isByPeople = ({ kind }: RunView): boolean => ['save', 'import', 'listEdit'].includes(kind);

/** What rules looked at and left; it comes after the ripple, which needn't wait for it. */
function LeftInRun({ run }: { run: string }) {
  const { data, error } = useRunLeft(run);
  if (error) return <ProblemNotice error={error} />;
  if (!data) return null;
  return (
    <>
      <LeftList ripple={{ waves: [], left: data.left }} />
      {data.untold ? <p className={clsx('quiet', style.untold)}>{data.untold}</p> : null}
      {data.unfit.length > 0 ? (
        <p className={clsx('quiet', style.untold)}>
          {data.unfit.join(', ')}: what {data.unfit.length === 1 ? 'this rule' : 'these rules'} of then left
          can’t be told, for the model is another by now.
        </p>
      ) : null}
    </>
  );
}

const firstNameOf = ({ kind }: RunView): string =>
  kind === 'save' || kind === 'listEdit' ? 'Entered' : 'Made';
