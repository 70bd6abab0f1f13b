'use client';

import type { HistoryEntry } from '@/core/api';
import { Link } from '@/ui/kit/navigation';
import { useHistory } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { More } from '@/ui/kit/more';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { RUN_WORDS } from '@/ui/kit/run-words';
import { ValuePair } from '@/ui/kit/values/value-pair';
import { when } from '@/ui/kit/values/when';
import style from './history.module.css';

/** What happened to a record, the latest first: who or which rule, before and after, and what it followed from. */
export function History({ type, id }: { type: string; id: string }) {
  const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useHistory(type, id);
  return (
    <section className="sheet" aria-label="History">
      <div className="sheet-head">
        <h2>History</h2>
      </div>
      <ProblemNotice error={error} />
      {data ? (
        <>
          <ol className={style.history}>
            {data.pages
              .flatMap(({ entries }) => entries)
              .map((entry) => (
                <Entry key={`${entry.run} ${entry.event}`} entry={entry} />
              ))}
          </ol>
          <More {...{ hasNextPage, isFetchingNextPage, fetchNextPage }} label="Show earlier changes" />
        </>
      ) : error ? null : (
        <Loading what="the history" />
      )}
    </section>
  );
}

const EVENT_WORDS = {
  created: 'made this record',
  deleted: 'deleted this record',
  restored: 'restored this record',
} as const;

function Entry({ entry }: { entry: HistoryEntry }) {
  const what =
    entry.event === 'changed'
      ? RUN_WORDS[entry.kind]
      : entry.event === 'created' && entry.kind !== 'save'
        ? `${RUN_WORDS[entry.kind]} this record`
        : EVENT_WORDS[entry.event];
  return (
    <li>
      <div>
        <Link href={`/ledger/${entry.run}`}>
          <time dateTime={entry.at}>{when(entry.at)}</time>
        </Link>{' '}
        · {entry.rule ? null : `${entry.person ?? 'Oikon'} ${what}`}
        {entry.rule ? (
          <>
            “<Link href={`/rules/${entry.rule.id}`}>{entry.rule.name}</Link>”{' '}
            {EVENT_WORDS[entry.event === 'changed' ? 'created' : entry.event]}
            {entry.causes.length > 0 ? ` because of ${entry.causes.join('; ')}` : ''}
            <span className="quiet">
              {' '}
              ({entry.person ?? 'Oikon'}
              {entry.kind === 'pace' ? '' : ` ${RUN_WORDS[entry.kind]}`})
            </span>
          </>
        ) : null}
      </div>
      <ul>
        {entry.changes.map((change) => (
          <li key={change.field}>
            <span className={style.historyField}>{change.fieldName}</span>{' '}
            <ValuePair before={change.before} after={change.after} byRule={change.rule !== null} />
            {change.rule === null && change.causes.length > 0 ? (
              <span className={style.historyCause}>because of {change.causes.join('; ')}</span>
            ) : null}
            {change.rule ? (
              <span className={style.historyCause}>
                by “<Link href={`/rules/${change.rule.id}`}>{change.rule.name}</Link>”
                {change.causes.length > 0 ? `, because of ${change.causes.join('; ')}` : ''}
              </span>
            ) : null}
          </li>
        ))}
      </ul>
    </li>
  );
}
