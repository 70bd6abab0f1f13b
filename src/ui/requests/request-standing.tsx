'use client';

import type { RequestedRule } from '@/core/verify';
import type { RequestView } from '@/core/api';
import { Link } from '@/ui/kit/navigation';
import { termMeans } from '@/ui/help/terms';
import { StateTag } from '@/ui/kit/state-tag';
import kitStyle from '@/ui/kit/kit.module.css';
import requestsStyle from './requests.module.css';
import style from './request-standing.module.css';

/** Its rules with their states and proofs, and what is still to be done. */
export function RequestStandingPart({ request: { rules, standing } }: { request: RequestView }) {
  return (
    <section className="sheet" aria-label="How it stands">
      <div className="sheet-head">
        <h2>How it stands</h2>
        <span className={standing.isMet ? requestsStyle.requestMet : 'quiet'}>
          {standing.isMet ? 'Met: live, and proven' : 'Not met yet'}
        </span>
      </div>
      {rules.length > 0 ? (
        <ul className={style.requestRules}>
          {rules.map((rule) => (
            <RuleLine key={rule.id} rule={rule} />
          ))}
        </ul>
      ) : null}
      {standing.wanting.length > 0 ? (
        <ul className={style.requestWanting}>
          {standing.wanting.map(({ words }) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      ) : null}
    </section>
  );
}

function RuleLine({
  rule: { id, name, state, hasChangesNotLive, isPilot, proofs },
}: {
  rule: RequestedRule;
}) {
  const held = proofs.filter(({ isHeld }) => isHeld).length;
  return (
    <li>
      <Link href={`/rules/${id}`}>{name}</Link>
      <span className={style.requestRuleStates}>
        <StateTag state={state} isPilot={isPilot} means={termMeans(isPilot ? 'pilot' : state)} />
        {hasChangesNotLive ? <span className="state-tag">Change not live</span> : null}
        <span className={held < proofs.length ? kitStyle.proofFails : 'quiet'}>
          {proofs.length === 0
            ? 'No proof'
            : held === proofs.length
              ? `${held} ${held === 1 ? 'proof holds' : 'proofs hold'}`
              : `${held} of ${proofs.length} proofs hold`}
        </span>
      </span>
    </li>
  );
}
