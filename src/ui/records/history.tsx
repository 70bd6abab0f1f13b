'use client';

import type { HistoryEntry } from '@/core/verify';
import Link from 'next/link';
import { useHistory } from '../api/queries';
import { Loading } from '../kit/loading';
import { ProblemNotice } from '../kit/problem-notice';
import { ValuePair } from '../kit/value-pair';

/** What happened to a record, the latest first: who or which rule, before and after, and what it followed from. */
export function History({ type, id }: { type: string; id: string }) {
  const { data, error } = useHistory(type, id);
  return (
    <section className="sheet" aria-label="History">
      <div className="sheet-head">
        <h2>History</h2>
      </div>
      <ProblemNotice error={error} />
      {data ? (
        <ol className="history">
          {data.entries.map((entry) => (
            <Entry key={entry.run} entry={entry} />
          ))}
        </ol>
      ) : error ? null : (
        <Loading what="the history" />
      )}
    </section>
  );
}

const WHAT: Record<HistoryEntry['kind'], string> = {
  save: 'saved',
  load: 'loaded',
  import: 'imported',
  live: 'took a rule live',
  pause: 'paused a rule',
};

const when = (at: string) =>
  new Date(at).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  });

function Entry({ entry }: { entry: HistoryEntry }) {
  const what =
    entry.event === 'created'
      ? entry.kind === 'load'
        ? 'loaded this record'
        : 'made this record'
      : entry.event === 'deleted'
        ? 'deleted this record'
        : WHAT[entry.kind];
  return (
    <li>
      <div>
        <time dateTime={entry.at}>{when(entry.at)}</time> · {entry.person ?? 'Oikon'} {what}
      </div>
      <ul>
        {entry.changes.map((change) => (
          <li key={change.field}>
            <span className="history-field">{change.fieldName}</span>{' '}
            <ValuePair before={change.before} after={change.after} byRule={change.rule !== null} />
            {change.rule ? (
              <span className="change-cause">
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
