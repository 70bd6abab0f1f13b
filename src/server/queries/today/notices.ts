import { certain, firstIn, shiftDay } from '@/core/values';
import type { NoticeView } from '@/core/api';
import { dayIn } from '@/server/day';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace } from '@/server/store/session/workspace';
import { instantSql } from '@/server/queries/run-head';

/** Most messages that are told one by one. */
const MOST = 50;

/** Days that the settled day, or a clock, may be ahead of the database's: there are zones a day apart. */
export const MOST_AHEAD = 2;

/** What went wrong by itself and wants a person: messages that were given up, a day that is ahead of the calendar, a clock that is wrong. */
export const notices = (known: LoadedWorkspace): Promise<NoticeView[]> =>
  inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const s = quote(workspace.schema);
    const messages = await run<{ id: string; person: string; subject: string; failure: string; at: string }>(
      transaction,
      `SELECT id::text, person::text, subject, failure, ${instantSql('failed_at')} AS at FROM ${s}._message
        WHERE failed_at IS NOT NULL ORDER BY id DESC LIMIT ${MOST}`,
    );
    const state = firstIn(
      await run<{ problem: string | null; now: Date }>(
        transaction,
        `SELECT day_problem AS problem, clock_timestamp() AS now FROM ${s}._state`,
      ),
    );
    const today = dayIn(workspace.timeZone, state.now);
    const isAhead = workspace.settledDay > certain(shiftDay(today, MOST_AHEAD));
    return [
      ...(state.problem === null ? [] : [{ kind: 'clock' as const, message: state.problem }]),
      ...(isAhead ? [{ kind: 'dayAhead' as const, settledDay: workspace.settledDay, today }] : []),
      ...messages.map(({ person, ...message }) => ({
        ...{ kind: 'message' as const, person: workspace.people.get(person) ?? 'Somebody', ...message },
      })),
    ];
  });
