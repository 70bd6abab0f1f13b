'use client';

import { Button } from 'antd';
import { queryOf, useAddressFilters } from '@/ui/kit/hooks/use-address-filters';
import { Link } from '@/ui/kit/navigation';
import { useRuns } from '@/ui/api/ledger-queries';
import { Loading } from '@/ui/kit/loading';
import { More } from '@/ui/kit/more';
import { Term } from '@/ui/help/term';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { RUN_WORDS } from '@/ui/kit/run-words';
import { when } from '@/ui/kit/values/when';
import { countWords } from '@/ui/records/words';
import { RUN_FILTERS, RunFilterBar } from './run-filters';
import kitStyle from '@/ui/kit/kit.module.css';

/** Every run, the latest first: who, when, what. */
export function LedgerPage() {
  const [filters, setFilters] = useAddressFilters(RUN_FILTERS);
  const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useRuns(
    queryOf(RUN_FILTERS, filters),
  );
  const runs = data?.pages.flatMap((page) => page.runs) ?? [];
  return (
    <>
      <header className="place-head">
        <h1>Ledger</h1>
        <span className="place-lead">
          Every <Term of="run">run</Term>, with its <Term of="ripple">ripple</Term>. Nothing is ever struck
          out.
        </span>
      </header>
      <div className="place-body">
        <RunFilterBar filters={filters} onFilters={setFilters} />
        <ProblemNotice error={error} />
        {data && runs.length === 0 ? (
          <div className="sheet nothing">
            <strong>No run is like that</strong>
            <Button onClick={() => setFilters({})}>Show all</Button>
          </div>
        ) : data ? (
          <section className="sheet" aria-label="Runs">
            <table className={kitStyle.members}>
              <thead>
                <tr>
                  <th scope="col">Run</th>
                  <th scope="col">When</th>
                  <th scope="col">Who</th>
                  <th scope="col">What</th>
                  <th scope="col" className="amount">
                    Records changed
                  </th>
                </tr>
              </thead>
              <tbody>
                {runs.map((run) => (
                  <tr key={run.run}>
                    <td>
                      <Link href={`/ledger/${run.run}`}>Run {run.run}</Link>
                    </td>
                    <td>
                      <time dateTime={run.at}>{when(run.at)}</time>
                    </td>
                    <td>{run.person ?? 'Oikon'}</td>
                    <td>
                      {RUN_WORDS[run.kind]}
                      {run.note ? <span className="quiet"> · {run.note}</span> : null}
                    </td>
                    <td className="amount">{countWords(run.changed)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <More {...{ hasNextPage, isFetchingNextPage, fetchNextPage }} label="Show earlier runs" />
          </section>
        ) : error ? null : (
          <Loading what="the ledger" />
        )}
      </div>
    </>
  );
}
