'use client';

import { isRole, ROLES, type SecurityEventView } from '@/core/api';
import { useInfiniteQuery } from '@tanstack/react-query';
import { callServer } from '@/ui/api/client';
import { More } from '@/ui/kit/more';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { clsx } from 'clsx';
import style from './installation-history.module.css';

interface Page {
  readonly events: readonly SecurityEventView[];
  readonly next: string | null;
}

const WORDS: Readonly<Record<SecurityEventView['kind'], string>> = {
  signedIn: 'signed in',
  signInFailed: 'gave a wrong password',
  signInHeldBack: 'tried too often, and was held back',
  signedOut: 'signed out',
  sessionEnded: 'ended a session of theirs elsewhere',
  passwordChosen: 'chose a password',
  addressMade: 'was given an address to choose a password',
  administratorMade: 'made the first administrator’s account',
  personAdded: 'was given an account',
  personForgotten: 'was taken out: name and e-mail are gone',
  rightsChanged: '',
  roleMade: 'is a role now',
  roleChanged: 'may something else as a role now',
  roleRemoved: 'is no role any more',
  groupMade: 'is a group now',
  groupChanged: 'was changed as a group',
  groupRemoved: 'is no group any more',
  secondFactorSet: 'set up a second step',
  secondFactorRemoved: 'has no second step any more',
  spareCodeTaken: 'gave a spare code',
  passkeyMade: 'made a passkey',
  passkeyRemoved: 'removed a passkey',
  providerLinked: 'is known by the company’s sign-in now',
  demandsChanged: 'changed who gives a second step',
  twoPeopleChanged: '',
  approved: '',
  exported: '',
  rulesLive: '',
  rulesPaused: '',
  rulesRetired: '',
  workspaceMade: '',
  workspaceRemoved: '',
  serviceMade: 'is a program of a workspace now',
  tokenMade: 'made a token for a program',
  tokenEnded: 'ended a token of a program',
};

function wordsOf({ kind, workspace, access, about }: SecurityEventView): string {
  switch (kind) {
    case 'twoPeopleChanged':
      return about
        ? `somebody else approves there from now on: ${about}, in ${workspace}`
        : `nobody else need approve anything in ${workspace} any more`;
    case 'approved':
      return `asked in ${workspace} for what was approved: ${about}`;
    case 'exported':
      return `took ${about} out of ${workspace} as a file`;
    case 'rulesLive':
      return `took ${about} live in ${workspace}`;
    case 'rulesPaused':
      return `paused ${about} in ${workspace}`;
    case 'rulesRetired':
      return `retired ${about}, or took it back, in ${workspace}`;
    case 'workspaceMade':
      return `made the workspace ${about}`;
    case 'workspaceRemoved':
      return `removed the workspace ${about}`;
    case 'rightsChanged':
      return rightsWords(workspace, access);
    default:
      return WORDS[kind];
  }
}

function rightsWords(workspace: string | null, access: string | null): string {
  if (access === null) return `is no longer in ${workspace}`;
  return `is ${isRole(access) ? ROLES[access].name : access} in ${workspace}`;
}

/** What matters to the installation's safety; it only grows. */
export function SecurityLedger() {
  const { data, error, ...more } = useInfiniteQuery({
    queryKey: ['securityEvents'],
    queryFn: ({ pageParam }) =>
      callServer<Page>(`/api/v1/security-events?limit=50${pageParam ? `&before=${pageParam}` : ''}`),
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
  });
  const events = data?.pages.flatMap((page) => page.events) ?? [];
  if (error) return <ProblemNotice error={error} />;
  if (events.length === 0) return null;
  return (
    <section className={clsx('sheet', style.installationHistory)} aria-labelledby="security-ledger">
      <h2 id="security-ledger">Who came in, and what they may</h2>
      <a href="/api/v1/security-events/export" download>
        Take it out as a file
      </a>
      <table>
        <tbody>
          {events.map((event) => (
            <tr key={event.id}>
              <td className={clsx('quiet', style.nowrap)}>{when(event.at)}</td>
              <td className={style.nowrap}>{event.person ?? 'Somebody unknown'}</td>
              <td>
                {wordsOf(event)}
                {event.by ? <span className="quiet"> · by {event.by}</span> : null}
                {event.address ? <span className="quiet"> · from {event.address}</span> : null}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <More label="Earlier" {...more} />
    </section>
  );
}
