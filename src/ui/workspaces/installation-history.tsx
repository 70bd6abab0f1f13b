'use client';

import type { InstallationEventView } from '@/core/api';
import { useInstallationEvents } from '@/ui/api/queries';
import { More } from '@/ui/kit/more';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { eventWords } from './event-words';
import { clsx } from 'clsx';
import style from './installation-history.module.css';

/** What was done to the installation itself: it stays known after a workspace is gone. */
export function InstallationHistory() {
  const { data, error, ...more } = useInstallationEvents();
  const events = data?.pages.flatMap((page) => page.events) ?? [];
  if (error) return <ProblemNotice error={error} />;
  if (events.length === 0) return null;
  return (
    <section className={clsx('sheet', style.installationHistory)} aria-labelledby="installation-history">
      <h2 id="installation-history">What was done here</h2>
      <table>
        <tbody>
          {events.map((event) => (
            <Entry key={event.id} event={event} />
          ))}
        </tbody>
      </table>
      <More label="Earlier" {...more} />
    </section>
  );
}

function Entry({ event }: { event: InstallationEventView }) {
  return (
    <tr>
      <td className={clsx('quiet', style.nowrap)}>{when(event.at)}</td>
      <td className={style.nowrap}>{event.person ?? 'Oikon'}</td>
      <td>{eventWords(event)}</td>
    </tr>
  );
}
