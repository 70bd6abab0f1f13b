'use client';

import type { RequestView, RuleView } from '@/core/api';
import { shiftDay, writeDate } from '@/core/values';
import type { ReactNode } from 'react';
import { useModelView, useProofStandings, useRequests, useRules, useUnfinishedRules } from '@/ui/api/queries';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { StateTag } from '@/ui/kit/state-tag';
import { counted } from '@/ui/kit/values/counted';
import { unfinishedPath } from '@/ui/kit/paths';
import { KindGlyph } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import style from './at-hand.module.css';
import todayStyle from './today.module.css';

/** How many days ahead a request stands here. */
const SOON = 14;
/** Most that are named here; all stand in their own place. */
const MOST_NAMED = 5;

interface Matter {
  readonly key: string;
  readonly to: string;
  readonly mark: ReactNode;
  readonly name: string;
  readonly what: string;
  readonly isAlarm?: boolean;
}

/** Whether what is at hand can be told, or can't be at all. */
export function useAtHandThere(isWanted: boolean): boolean {
  const [rules, requests] = [useRules(isWanted), useRequests(isWanted)];
  return !rules.isPending && !requests.isPending;
}

/** What else is at hand besides proposals: what fails, what is wanted soon, what was begun. With nothing of it, what to do next. */
export function AtHand() {
  const rules = useRules();
  const standings = useProofStandings();
  const requests = useRequests();
  const unfinished = useUnfinishedRules();
  const model = useModelView();
  const today = model.data?.settledDay;
  const error = rules.error ?? standings.error ?? requests.error;
  if (error) return <ProblemNotice error={error} />;
  if (!rules.data || !requests.data || today === undefined) return null;
  const failing = new Map(
    (standings.data?.rules ?? []).filter(({ proofs, held }) => held < proofs).map((one) => [one.rule, one]),
  );
  const matters: Matter[] = [
    ...rules.data.rules.flatMap((rule) => failedWords(rule)),
    ...rules.data.rules.flatMap((rule) => {
      const one = failing.get(rule.id);
      if (!one) return [];
      const missed = one.proofs - one.held;
      const what = `${counted(missed, 'proof doesn’t', 'proofs don’t')} hold`;
      return [{ ...ofRule(rule), key: `proofs ${rule.id}`, what, isAlarm: true }];
    }),
    ...requests.data.requests.flatMap((request) => dueWords(request, today)),
    ...(unfinished.data?.rules ?? []).map((one): Matter => ({
      ...{ key: `unfinished ${one.id}`, to: unfinishedPath(one), name: one.name || 'A rule' },
      mark: <KindGlyph kind={one.content.kind} size={16} />,
      what: `kept unfinished by ${one.person}`,
    })),
    ...rules.data.rules.flatMap((rule) =>
      rule.state === 'draft'
        ? [{ ...ofRule(rule), key: `draft ${rule.id}`, what: 'a draft, not live yet' }]
        : rule.hasChangesNotLive
          ? [{ ...ofRule(rule), key: `change ${rule.id}`, what: 'has a change that isn’t live' }]
          : [],
    ),
  ];
  const more = matters.length - MOST_NAMED;
  return (
    <section className={clsx('sheet', todayStyle.queued)} aria-label="Also at hand">
      <div className="sheet-head">
        <h2>Also at hand</h2>
      </div>
      {matters.length === 0 && !standings.data ? (
        <p className={style.next}>Looking whether all proofs hold …</p>
      ) : matters.length === 0 && model.data?.types.length === 0 ? (
        <p className={style.next}>
          There is nothing here yet. Next: <Link href="/model">make types of record</Link>, from a file or by
          hand.
        </p>
      ) : matters.length === 0 ? (
        <p className={style.next}>
          All proofs hold, and nothing was left open. Next: <Link href="/rules/new">write a rule</Link>,{' '}
          <Link href="/requests">write down what a colleague asked for</Link>, or{' '}
          <Link href="/bench">try a change on the bench</Link>.
        </p>
      ) : (
        <ul className={todayStyle.todayList}>
          {matters.slice(0, MOST_NAMED).map(({ key, to, mark, name, what, isAlarm }) => (
            <li key={key}>
              {mark}
              <Link href={to}>{name}</Link>
              <span className={isAlarm ? todayStyle.queuedProblem : 'quiet'}>{what}</span>
            </li>
          ))}
          {more > 0 ? (
            <li className="quiet">
              and {more} more: see <Link href="/rules">the rules</Link> and{' '}
              <Link href="/requests">the requests</Link>
            </li>
          ) : null}
        </ul>
      )}
    </section>
  );
}

const ofRule = ({ id, name, definition, state }: RuleView): Omit<Matter, 'key' | 'what'> => ({
  ...{ to: `/rules/${id}`, name },
  mark: state === 'draft' ? <StateTag state="draft" /> : <KindGlyph kind={definition.kind} size={16} />,
});

const failedWords = (rule: RuleView): Matter[] =>
  rule.later?.problem
    ? [{ ...ofRule(rule), key: `failed ${rule.id}`, what: rule.later.problem, isAlarm: true }]
    : [];

function dueWords({ id, name, due, standing }: RequestView, today: string): Matter[] {
  if (due === null || standing.isMet || due > (shiftDay(today, SOON) ?? due)) return [];
  const isLate = due < today;
  const what = `${isLate ? 'was wanted by' : 'wanted by'} ${writeDate(due)}`;
  return [{ key: `request ${id}`, to: `/requests/${id}`, mark: null, name, what, isAlarm: isLate }];
}
