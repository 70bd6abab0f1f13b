'use client';

import { certain } from '@/core/values';
import type { MessageView, ProposalList, ProposalView } from '@/core/api';
import { Checkbox, Segmented } from 'antd';
import { useState } from 'react';
import { useSeesPart } from '@/ui/api/may';
import { useModelView } from '@/ui/api/queries';
import { useHelp } from '@/ui/help/use-help';
import { useProposals, useMessages } from '@/ui/api/today-queries';
import { Loading } from '@/ui/kit/loading';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { KindGlyph } from '@/ui/theme/glyphs';
import { AtHand, useAtHandThere } from './at-hand';
import { Approvals } from './approvals';
import { Notices } from './notices';
import { ProposalPanel } from './proposal-panel';
import { QueuedSaves } from './queued-saves';
import { RefuseDialog } from './refuse-dialog';
import { useDeciding } from './use-deciding';
import { WholeLink } from './whole-link';
import { stateWords, whatWords } from './words';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './today-page.module.css';
import todayStyle from './today.module.css';
import { MayButton } from '@/ui/kit/may-button';

/** What waits for people today: proposals of rules, with what each would do. */
export function TodayPage() {
  const [shown, setShown] = useState<Shown>('waiting');
  const proposals = useProposals(shown === 'decided');
  const messages = useMessages(shown === 'messages');
  const model = useModelView();
  const seesPart = useSeesPart();
  // What stands above what waits comes first, so that nothing is pushed down.
  const isFirstThere = useAtHandThere(!seesPart) || seesPart;
  const error = proposals.error ?? messages.error ?? model.error;
  return (
    <>
      <header className="place-head">
        <h1>Today</h1>
        <span className="place-lead">{leadOf(proposals.data)}</span>
        <div className="place-actions">
          <Segmented
            aria-label="What is shown"
            value={shown}
            options={[
              { value: 'waiting', label: 'Waiting' },
              { value: 'decided', label: 'Decided' },
              { value: 'messages', label: 'Messages' },
            ]}
            onChange={setShown}
          />
        </div>
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        {proposals.data && model.data && isFirstThere ? (
          shown === 'messages' ? (
            messages.data ? (
              <Messages messages={messages.data.messages} />
            ) : (
              <Loading what="the messages" />
            )
          ) : shown === 'decided' ? (
            <Decided proposals={proposals.data.proposals} />
          ) : (
            <>
              {seesPart ? null : (
                <>
                  <Notices />
                  <Approvals />
                  <QueuedSaves />
                  <AtHand />
                </>
              )}
              <Waiting list={proposals.data} />
            </>
          )
        ) : error ? null : (
          <Loading what="what waits" />
        )}
      </div>
    </>
  );
}

type Shown = 'waiting' | 'decided' | 'messages';

function leadOf(list: ProposalList | undefined): string {
  if (!list) return 'What rules prepared, and people decide.';
  const { open, told } = list;
  const waits = open === 1 ? '1 proposal waits for approval' : `${open || 'No'} proposals wait for approval`;
  return told === 0 ? `${waits}.` : `${waits}; ${told} done already ${told === 1 ? 'is' : 'are'} to be seen.`;
}

/** Whoever has nothing to do may look around. */
function HelpOffer() {
  const [isHelped, keepHelp] = useHelp();
  if (isHelped) return null;
  return (
    <span>
      {' '}
      New here?{' '}
      <button type="button" className="plain part" onClick={() => keepHelp(true)}>
        Have help beside the page
      </button>
      , and a first look in five steps.
    </span>
  );
}

function Waiting({ list }: { list: ProposalList }) {
  const { proposals } = list;
  const [chosen, setChosen] = useState<string | null>(null);
  const [marked, setMarked] = useState<readonly string[]>([]);
  const [isRefusing, setRefusing] = useState(false);
  const deciding = useDeciding();
  const shown = proposals.find(({ id }) => id === chosen) ?? proposals[0];
  if (!shown)
    return (
      <div className="sheet nothing">
        <strong>Nothing waits</strong>
        Proposals of create rules stand here until somebody approves or refuses them. A rule proposes where
        its sentence says “as a proposal”: <WholeLink href="/rules">see the rules</WholeLink>.
        <HelpOffer />
      </div>
    );
  const some = proposals.filter(({ id }) => marked.includes(id));
  const open = some.filter(({ state }) => state === 'open');
  const told = some.filter(({ state }) => state === 'told');
  const decided = () => setMarked([]);
  const decide = (of: readonly ProposalView[], decision: 'approve' | 'seen') =>
    deciding.decide(
      of.map(({ id }) => ({ id, decision })),
      decided,
    );
  return (
    <div className={style.todayColumns}>
      <section className="sheet" aria-label="What waits">
        <div className="sheet-head">
          <h2>
            <Checkbox
              aria-label="Mark all"
              checked={marked.length === proposals.length}
              indeterminate={marked.length > 0 && marked.length < proposals.length}
              onChange={(event) => setMarked(event.target.checked ? proposals.map(({ id }) => id) : [])}
            />{' '}
            Waiting
          </h2>
          {open.length > 0 ? (
            <span className={style.todayMany}>
              <MayButton
                right="edit"
                size="small"
                type="primary"
                loading={deciding.isBusy}
                onClick={() => void decide(open, 'approve')}
              >
                Approve {open.length}
              </MayButton>
              <MayButton right="edit" size="small" onClick={() => setRefusing(true)}>
                Refuse {open.length} …
              </MayButton>
            </span>
          ) : null}
          {told.length > 0 ? (
            <MayButton
              right="edit"
              size="small"
              loading={deciding.isBusy}
              onClick={() => void decide(told, 'seen')}
            >
              Seen {told.length}
            </MayButton>
          ) : null}
        </div>
        <ProblemNotice error={deciding.error} />
        {deciding.problems.map(({ id, problem }) => (
          <p key={id} className="finding">
            {proposals.find((one) => one.id === id)?.source.title}: {certain(problem).message}
          </p>
        ))}
        <ul className={todayStyle.todayList}>
          {proposals.map((proposal) => (
            <li key={proposal.id} aria-current={proposal.id === shown.id ? 'true' : undefined}>
              <Checkbox
                aria-label={`Mark ${whatWords(proposal)}`}
                checked={marked.includes(proposal.id)}
                onChange={(event) =>
                  setMarked(
                    event.target.checked
                      ? [...marked, proposal.id]
                      : marked.filter((id) => id !== proposal.id),
                  )
                }
              />
              <button
                type="button"
                className={clsx('plain', style.todayRow)}
                onClick={() => setChosen(proposal.id)}
              >
                <KindGlyph kind={proposal.rule.kind} size={20} />
                <span>
                  <strong>{whatWords(proposal)}</strong>
                  <span className="quiet">
                    {proposal.state === 'told' ? 'Done already, to be seen · ' : ''}
                    {proposal.person ?? 'Oikon'}, {when(proposal.at)}
                  </span>
                </span>
                {proposal.fields.some(({ missing }) => missing) ? (
                  <span className={style.todayOpen}>
                    {proposal.kind === 'choose' ? 'to be chosen' : 'to be filled in'}
                  </span>
                ) : null}
              </button>
            </li>
          ))}
        </ul>
      </section>
      <ProposalPanel key={shown.id} proposal={shown} />
      {isRefusing ? (
        <RefuseDialog proposals={open} onClose={() => setRefusing(false)} onDone={decided} />
      ) : null}
    </div>
  );
}

function Decided({ proposals }: { proposals: readonly ProposalView[] }) {
  if (proposals.length === 0)
    return (
      <div className="sheet nothing">
        <strong>Nothing was decided yet</strong>What is approved, refused or open no more stands here, with
        who decided it and why.
      </div>
    );
  return (
    <section className="sheet" aria-label="What was decided">
      <table className={kitStyle.members}>
        <thead>
          <tr>
            <th scope="col">Proposal</th>
            <th scope="col">Rule</th>
            <th scope="col">What became of it</th>
            <th scope="col">Who</th>
            <th scope="col">When</th>
          </tr>
        </thead>
        <tbody>
          {proposals.map((proposal) => (
            <tr key={proposal.id}>
              <td>
                <Link href={`/records/${proposal.source.type}/${proposal.source.id}`}>
                  {whatWords(proposal)}
                </Link>
              </td>
              <td>
                <WholeLink href={`/rules/${proposal.rule.id}`}>{proposal.rule.name}</WholeLink>
              </td>
              <td>
                {stateWords(proposal)}
                {proposal.decidedRun ? (
                  <>
                    {' '}
                    in{' '}
                    <WholeLink href={`/ledger/${proposal.decidedRun}`}>run {proposal.decidedRun}</WholeLink>
                  </>
                ) : null}
              </td>
              <td>{proposal.decidedBy ?? 'Oikon'}</td>
              <td>{proposal.decidedAt ? when(proposal.decidedAt) : ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What rules wrote to people in charge, and whether it was sent. */
function Messages({ messages }: { messages: readonly MessageView[] }) {
  if (messages.length === 0)
    return (
      <div className="sheet nothing">
        <strong>Nobody was written to yet</strong>A create rule, or a link rule that asks, writes to the
        person in charge where its sentence names one.
      </div>
    );
  return (
    <section className="sheet" aria-label="Messages">
      <table className={kitStyle.members}>
        <thead>
          <tr>
            <th scope="col">To</th>
            <th scope="col">Message</th>
            <th scope="col">Run</th>
            <th scope="col">Sent</th>
          </tr>
        </thead>
        <tbody>
          {messages.map(({ id, person, subject, body, run, at, sentAt, failure }) => (
            <tr key={id}>
              <td>{person}</td>
              <td>
                <strong>{subject}</strong>
                <div className={clsx('quiet', style.messageBody)}>{body}</div>
              </td>
              <td>
                <WholeLink href={`/ledger/${run}`}>run {run}</WholeLink>
              </td>
              <td>
                {sentAt ? when(sentAt) : `waits since ${when(at)}`}
                {failure ? <div className={kitStyle.problemWord}>{failure}</div> : null}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
