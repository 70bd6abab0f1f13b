'use client';

import Link from 'next/link';
import { useRun } from '../api/queries';
import { Loading } from '../kit/loading';
import { ProblemNotice } from '../kit/problem-notice';
import { Ripple } from '../kit/ripple';
import { RUN_WORDS } from '../kit/run-words';
import { when } from '../kit/when';
import './ledger.css';

/** One run, opened as its whole ripple: what was entered, and wave by wave what followed. */
export function RunPage({ run }: { run: string }) {
  const { data, error } = useRun(run);
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
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        {data ? (
          <section className="sheet run-ripple" aria-label="Ripple">
            {data.waves.length === 0 ? (
              <div className="nothing">
                <strong>It changed no record</strong>
                Every value was right already.
              </div>
            ) : (
              <Ripple ripple={data} firstName={data.kind === 'save' ? 'Entered' : 'Made'} linked />
            )}
            {data.isWhole ? null : (
              <p className="quiet ledger-more">
                The run is larger than this: the first records are shown. A record’s own history has what it
                did there.
              </p>
            )}
          </section>
        ) : error ? null : (
          <Loading what="the run" />
        )}
      </div>
    </>
  );
}
