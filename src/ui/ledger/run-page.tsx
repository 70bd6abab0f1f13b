'use client';

import type { RunView } from '@/core/api';
import { useMemo } from 'react';
import { Link } from '@/ui/kit/navigation';
import { useRun } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { More } from '@/ui/kit/more';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import { Ripple } from '@/ui/kit/explain/ripple';
import { RUN_WORDS } from '@/ui/kit/run-words';
import { RunCounts } from './run-counts';
import { when } from '@/ui/kit/values/when';
import { UndoButton } from './undo-dialog';
import { clsx } from 'clsx';
import style from './run-page.module.css';

/** One run, opened as its whole ripple: what was entered, and wave by wave what followed. */
export function RunPage({ run }: { run: string }) {
  const { data: read, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useRun(run);
  const data = read?.pages[0];
  const waves = useMemo(() => together(read?.pages ?? []), [read]);
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
        {data && ['save', 'import', 'listEdit'].includes(data.kind) ? (
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
            {waves.length === 0 ? (
              <div className="nothing">
                <strong>It changed no record</strong>
                Every value was right already.
              </div>
            ) : (
              <Ripple
                ripple={{ waves }}
                firstName={data.kind === 'save' || data.kind === 'listEdit' ? 'Entered' : 'Made'}
                linked
                goesOn={hasNextPage}
              />
            )}
            <More
              {...{ hasNextPage, isFetchingNextPage, fetchNextPage }}
              label="Show more of what it changed"
            />
          </section>
        ) : error ? null : (
          <Loading what="the run" />
        )}
      </div>
    </>
  );
}

/** Waves of one number belong together, whatever page they came on. */
function together(pages: readonly RunView[]): RunView['waves'] {
  const waves = new Map<number, RunView['waves'][number]['changes']>();
  for (const { number, changes } of pages.flatMap((page) => page.waves))
    waves.set(number, [...(waves.get(number) ?? []), ...changes]);
  return [...waves].sort(([a], [b]) => a - b).map(([number, changes]) => ({ number, changes }));
}
