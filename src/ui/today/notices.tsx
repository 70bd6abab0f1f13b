'use client';

import { writeDate } from '@/core/values';
import type { NoticeView } from '@/core/api';
import { Popconfirm } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { useNotices } from '@/ui/api/today-queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { when } from '@/ui/kit/values/when';
import { usePerson } from '@/ui/api/person';
import { clsx } from 'clsx';
import todayStyle from './today.module.css';

/** What went wrong by itself; shown only while there is something. */
export function Notices() {
  const { data } = useNotices();
  const { id: person } = usePerson();
  const forget = useInvalidate();
  const { run, error, isBusy } = useTask();
  const notices = data?.notices ?? [];
  if (notices.length === 0) return null;
  const post = (path: string, body: unknown, done: string) =>
    run(
      () => callApi(path, { method: 'POST', body, person }).then(() => forget.everything()),
      () => done,
    );
  return (
    <section className={clsx('sheet', todayStyle.queued)} aria-label="What went wrong">
      <div className="sheet-head">
        <h2>What went wrong</h2>
        <span className="quiet">Oikon couldn’t do these by itself.</span>
      </div>
      <ProblemNotice error={error} />
      <ul className={todayStyle.todayList}>
        {notices.map((notice) => (
          <Notice key={notice.kind === 'message' ? notice.id : notice.kind} {...{ notice, post, isBusy }} />
        ))}
      </ul>
    </section>
  );
}

function Notice({
  notice,
  post,
  isBusy,
}: {
  notice: NoticeView;
  post: (path: string, body: unknown, done: string) => Promise<void>;
  isBusy: boolean;
}) {
  switch (notice.kind) {
    case 'clock':
      return (
        <li>
          <span className={todayStyle.queuedWhat}>
            <strong>A clock is wrong</strong>
            <span className={todayStyle.queuedProblem}>{notice.message}</span>
          </span>
        </li>
      );
    case 'dayAhead':
      return (
        <li>
          <span className={todayStyle.queuedWhat}>
            <strong>The day is ahead: {writeDate(notice.settledDay)}</strong>
            <span className="quiet">
              Conditions on dates hold as of that day, until then. Set back, they are worked out for{' '}
              {writeDate(notice.today)}; what followed from the days between stays.
            </span>
          </span>
          <Popconfirm
            title={`Work everything out for ${writeDate(notice.today)}? Others can’t save meanwhile.`}
            okText="Set the day back"
            cancelText="Not now"
            onConfirm={() => post('/settled-day', {}, 'The day is today again.')}
          >
            <MayButton right="administer" size="small" loading={isBusy}>
              Set the day back …
            </MayButton>
          </Popconfirm>
        </li>
      );
    case 'message':
      return (
        <li>
          <span className={todayStyle.queuedWhat}>
            <strong>
              Not sent to {notice.person}: {notice.subject}
            </strong>
            <span className="quiet">Given up {when(notice.at)}, after three days</span>
            <span className={todayStyle.queuedProblem}>{notice.failure}</span>
          </span>
          <MayButton
            right="edit"
            size="small"
            disabled={isBusy}
            onClick={() => void post(`/messages/${notice.id}`, { decision: 'again' }, 'It is sent again.')}
          >
            Send again
          </MayButton>
          <Popconfirm
            title="Drop this message? Nobody will get it."
            okText="Drop it"
            cancelText="Keep it"
            onConfirm={() => post(`/messages/${notice.id}`, { decision: 'drop' }, 'Dropped.')}
          >
            <MayButton right="edit" size="small">
              Drop …
            </MayButton>
          </Popconfirm>
        </li>
      );
  }
}
