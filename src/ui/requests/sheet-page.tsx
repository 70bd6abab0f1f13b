'use client';

import { writeDate } from '@/core/values';
import type { ProofDescription } from '@/core/verify';
import type { AcceptanceSheet, SheetRule } from '@/core/api';
import { Button } from 'antd';
import { useAcceptanceSheet } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ButtonLink } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { AgreementList } from './agreements';
import { clsx } from 'clsx';
import requestsStyle from './requests.module.css';
import style from './sheet-page.module.css';

/** What a request came to, to be printed, checked and agreed to by whoever asked. */
export function SheetPage({ id }: { id: string }) {
  const { data, error } = useAcceptanceSheet(id);
  return (
    <>
      <header className="place-head">
        <h1>Acceptance sheet</h1>
        <span className="place-lead">{data?.request.name}</span>
        <div className="place-actions">
          <ButtonLink href={`/requests/${id}`}>Back to the request</ButtonLink>
          <Button type="primary" disabled={!data} onClick={() => print()}>
            Print
          </Button>
        </div>
      </header>
      {/* It scrolls, and holds nothing that could take the focus: so it does itself. */}
      <div className="place-body" tabIndex={0} role="region" aria-label="The sheet">
        <ProblemNotice error={error} />
        {data ? <Sheet sheet={data} /> : error ? null : <Loading what="the sheet" />}
      </div>
    </>
  );
}

function Sheet({ sheet: { workspace, settledDay, at, request, rules } }: { sheet: AcceptanceSheet }) {
  const { standing } = request;
  return (
    <article className={clsx('sheet', 'printed', requestsStyle.acceptance)}>
      <header>
        <p className="quiet">{workspace}: acceptance sheet</p>
        <h2>{request.name}</h2>
        <p className={standing.isMet ? requestsStyle.requestMet : requestsStyle.requestLate}>
          {standing.isMet ? 'Met: every rule is live, and every proof holds.' : 'Not met yet.'}
        </p>
        <dl>
          <dt>Asked by</dt>
          <dd>{request.askedBy || 'nobody named'}</dd>
          <dt>Wanted by</dt>
          <dd>{request.due ? writeDate(request.due) : 'no day'}</dd>
          <dt>In their words</dt>
          <dd className={style.acceptanceWords}>{request.words || 'Not written down.'}</dd>
        </dl>
      </header>
      {standing.wanting.length > 0 ? (
        <section>
          <h3>Still to be done</h3>
          <ul>
            {standing.wanting.map(({ words }) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
        </section>
      ) : null}
      {request.points.length > 0 ? <Points request={request} /> : null}
      {rules.map((rule) => (
        <RuleSection key={rule.id} rule={rule} />
      ))}
      <section>
        <h3>Who agreed</h3>
        <AgreementList request={request} />
        <table className={style.acceptanceSigning} aria-label="To be signed">
          <tbody>
            <tr>
              <td>Name</td>
              <td>Day</td>
              <td>Signature</td>
            </tr>
          </tbody>
        </table>
      </section>
      <footer className="quiet">
        As it stood on {when(at)}; dated conditions as of {writeDate(settledDay)}.
      </footer>
    </article>
  );
}

function Points({ request: { points, standing, rules } }: { request: AcceptanceSheet['request'] }) {
  const names = new Map(rules.flatMap(({ proofs }) => proofs.map(({ id, name }) => [id, name] as const)));
  return (
    <section>
      <h3>What must be true</h3>
      <table>
        <thead>
          <tr>
            <th scope="col">Point</th>
            <th scope="col">Shown by</th>
            <th scope="col">
              <span className="visually-hidden">Whether it is shown</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {points.map(({ text, proofs }, at) => (
            <tr key={`${at} ${text}`}>
              <td>{text}</td>
              <td>{proofs.map((id) => names.get(id)).join('; ') || 'No proof'}</td>
              <td className={standing.points[at] ? requestsStyle.requestMet : requestsStyle.requestLate}>
                {standing.points[at] ? 'Shown' : 'Open'}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function RuleSection({ rule }: { rule: SheetRule }) {
  const { name, note, sentence, number, takenLive, told, findings } = rule;
  const acting = told.filter(({ sort }) => sort === 'acts');
  const leaving = told.filter(({ sort }) => sort === 'leaves');
  return (
    <section>
      <h3>{name}</h3>
      <p className={style.acceptanceSentence}>{sentence}</p>
      <p className="quiet">
        {`Version ${number}. `}
        {takenLive
          ? `Live since ${when(takenLive.at)}${takenLive.person ? `, by ${takenLive.person}` : ''}${
              rule.hasChangesNotLive ? ', as it was before its last change' : ''
            }.`
          : `Not live: ${rule.state}.`}
        {takenLive?.reason
          ? ` Some proofs didn’t hold then; it went live because: “${takenLive.reason}”`
          : ''}
      </p>
      {note ? <p className={style.acceptanceWords}>{note}</p> : null}
      <Cases title="Where it acts" none="No proof shows that it acts." told={acting} />
      <Cases title="Where it must not" none="No proof shows where it must not act." told={leaving} />
      <h4>Review</h4>
      {findings.length === 0 ? (
        <p>Nothing was found.</p>
      ) : (
        <ul>
          {findings.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Cases({ title, none, told }: { title: string; none: string; told: readonly ProofDescription[] }) {
  return (
    <>
      <h4>{title}</h4>
      {told.length === 0 ? <p className="quiet">{none}</p> : null}
      {told.map((one) => (
        <Case key={one.id} told={one} />
      ))}
    </>
  );
}

/** A proof: what is done, and each value before and after. */
function Case({ told }: { told: ProofDescription }) {
  const { name, day, given, left, saves, cells, also, isHeld, says } = told;
  const isAtRest = saves.length === 0;
  return (
    <div className={style.acceptanceCase}>
      <p>
        <strong>{name}</strong>{' '}
        <span className={isHeld ? requestsStyle.requestMet : requestsStyle.requestLate}>
          {isHeld ? 'holds' : 'doesn’t hold'}
        </span>{' '}
        <span className="quiet">on {writeDate(day)}</span>
      </p>
      {given.length > 0 ? (
        <p className={style.acceptanceGiven}>
          Given {given.join('; ')}
          {left > 0 ? `; and ${left} more records` : ''}.
        </p>
      ) : null}
      {isAtRest ? null : (
        <ol>
          {saves.map((edits, at) => (
            <li key={at}>{edits.join('; ')}</li>
          ))}
        </ol>
      )}
      {cells.length > 0 ? (
        <table className={style.acceptanceCells}>
          <thead>
            <tr>
              <th scope="col">Field</th>
              {isAtRest ? null : <th scope="col">Before</th>}
              <th scope="col">{isAtRest ? 'Is' : 'After'}</th>
              {isHeld ? null : <th scope="col">Expected</th>}
            </tr>
          </thead>
          <tbody>
            {cells.map(({ what, before, after, expected, isHeld: isRight }) => (
              <tr key={what}>
                <td>{what}</td>
                {isAtRest ? null : <td>{before}</td>}
                <td className={before === after || isAtRest ? undefined : 'now'}>{after}</td>
                {isHeld ? null : (
                  <td className={isRight ? undefined : requestsStyle.requestLate}>{expected}</td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {[...also, ...says].map((words) => (
        <p key={words}>{words}</p>
      ))}
    </div>
  );
}
