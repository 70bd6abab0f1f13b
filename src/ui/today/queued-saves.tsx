'use client';

import type { QueuedSaveView } from '@/core/api';
import { Popconfirm } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { useTask } from '@/ui/kit/hooks/use-task';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { useQueued } from '@/ui/api/today-queries';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { usePerson } from '@/ui/api/person';
import { clsx } from 'clsx';
import todayStyle from './today.module.css';

/** Saves that people put off since very many records follow; shown only while there are some. */
export function QueuedSaves() {
  const queued = useQueued();
  const person = usePerson();
  const forget = useInvalidate();
  const { isBusy, error, run } = useTask();
  const saves = queued.data?.saves ?? [];
  if (saves.length === 0) return null;
  const decide = (id: string, decision: 'again' | 'drop') =>
    run(
      // Also what was refused may stand otherwise now.
      () =>
        callApi(`/queued-saves/${id}`, { method: 'POST', body: { decision }, person: person.id }).finally(
          () => forget.records(),
        ),
      null,
    );
  return (
    <section className={clsx('sheet', todayStyle.queued)} aria-label="Saves that wait">
      <div className="sheet-head">
        <h2>Saves put off</h2>
        <span className="quiet">So many records follow that Oikon saves these by itself, soon after.</span>
      </div>
      <ProblemNotice error={error} />
      <ul className={todayStyle.todayList}>
        {saves.map((save) => (
          <li key={save.id}>
            <span className={todayStyle.queuedWhat}>
              <strong>{whatWords(save)}</strong>
              <span className="quiet">
                {save.person}, {when(save.at)}
                {save.problem ? '' : ' · waits for its turn'}
              </span>
              {save.problem ? <span className={todayStyle.queuedProblem}>{save.problem}</span> : null}
            </span>
            {save.problem ? (
              <MayButton
                right="edit"
                size="small"
                disabled={isBusy}
                onClick={() => void decide(save.id, 'again')}
              >
                Try again
              </MayButton>
            ) : null}
            <Popconfirm
              title="Drop this save? What was entered is lost."
              okText="Drop it"
              cancelText="Keep it"
              onConfirm={() => decide(save.id, 'drop')}
            >
              <MayButton right="edit" size="small">
                Drop …
              </MayButton>
            </Popconfirm>
            <Link href={`/records/${save.record.type}/${save.record.id}`}>Open</Link>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** `Coordinator of Rivers of Silk`, `Climate requirement of Salt and 3 more records`. */
function whatWords({ record, edits }: QueuedSaveView): string {
  const fields = record.fieldNames.join(', ') || 'A change';
  const more = edits === 1 ? '' : ` and ${edits - 1} more ${edits === 2 ? 'record' : 'records'}`;
  return `${fields} of ${record.title}${more}`;
}
