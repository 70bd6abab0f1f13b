'use client';

import type { WireEdit } from '@/core/engine';
import { certain, type WireValue } from '@/core/values';
import type { ProposalView, SavedRun } from '@/core/api';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Button, Radio } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useSeesPart } from '@/ui/api/may';
import { modelOf, useModelView } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { Ripple } from '@/ui/kit/explain/ripple';
import { sameWire } from '@/ui/kit/values/same-wire';
import { ValueInput } from '@/ui/kit/values/value-input';
import { KindGlyph } from '@/ui/theme/glyphs';
import { RefuseDialog } from './refuse-dialog';
import { useDeciding } from './use-deciding';
import { WholeLink } from './whole-link';
import { whatWords } from './words';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './proposal-panel.module.css';
import { MayButton } from '@/ui/kit/may-button';

/** One proposal: what it would write, where a person may change it first, and all that would follow. */
export function ProposalPanel({ proposal }: { proposal: ProposalView }) {
  const [changed, setChanged] = useState<Readonly<Record<string, WireValue>>>({});
  const [isRefusing, setRefusing] = useState(false);
  const deciding = useDeciding();
  const seesPart = useSeesPart();
  const { id, kind, state, rule, source, fields } = proposal;
  const isOpen = state === 'open';
  const edit: WireEdit = { ...proposal.edit, values: { ...proposal.edit.values, ...changed } };
  const isMissing = fields.some(
    ({ field, missing }) => missing !== null && missing !== 'taken' && (changed[field] ?? null) === null,
  );
  const rehearsal = useQuery({
    queryKey: ['records', 'proposal', id, changed],
    queryFn: () =>
      callApi<{ ripple: SavedRun['ripple'] }>('/rehearsals', { method: 'POST', body: { edits: [edit] } }),
    enabled: isOpen && !isMissing && !seesPart,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const isChanged = Object.keys(changed).length > 0;
  return (
    <section className="sheet proposal" aria-label="The proposal">
      <div className="sheet-head">
        <h2>{whatWords(proposal)}</h2>
      </div>
      <p className={style.proposalWhy}>
        <KindGlyph kind={rule.kind} size={16} /> “
        <WholeLink href={`/rules/${rule.id}`}>{rule.name}</WholeLink>”{' '}
        {kind === 'choose' ? 'finds several' : isOpen ? 'proposes it' : 'did it'} for{' '}
        {source.typeName.toLowerCase()}{' '}
        <Link href={`/records/${source.type}/${source.id}`}>{source.title}</Link>, after{' '}
        <WholeLink href={`/ledger/${proposal.run}`}>run {proposal.run}</WholeLink>
        {proposal.person ? ` by ${proposal.person}` : ''}.
      </p>
      <ProposedFields {...{ proposal, changed, onChange: setChanged }} />
      <ProblemNotice error={deciding.error ?? (isMissing ? null : rehearsal.error)} />
      {deciding.problems.map((one) => (
        <p key={one.id} className="finding">
          {certain(one.problem).message}
        </p>
      ))}
      <div className={style.proposalActions}>
        {isOpen ? (
          <>
            <MayButton
              right="edit"
              type="primary"
              disabled={isMissing}
              loading={deciding.isBusy}
              onClick={() =>
                void deciding.decide([{ id, decision: 'approve', ...(isChanged ? { values: changed } : {}) }])
              }
            >
              {kind === 'choose' ? 'Link it so' : isChanged ? 'Approve as changed' : 'Approve'}
            </MayButton>
            <MayButton right="edit" onClick={() => setRefusing(true)}>
              Refuse …
            </MayButton>
            {isChanged ? (
              <Button type="text" onClick={() => setChanged({})}>
                As proposed again
              </Button>
            ) : null}
          </>
        ) : (
          <MayButton
            right="edit"
            type="primary"
            loading={deciding.isBusy}
            onClick={() => void deciding.decide([{ id, decision: 'seen' }])}
          >
            Seen
          </MayButton>
        )}
      </div>
      {isOpen && !isMissing && !seesPart ? (
        <WhatFollows ripple={rehearsal.data?.ripple} error={rehearsal.error} />
      ) : null}
      {isRefusing ? <RefuseDialog proposals={[proposal]} onClose={() => setRefusing(false)} /> : null}
    </section>
  );
}

interface ProposedProps {
  readonly proposal: ProposalView;
  /** What a person has given otherwise, by field. */
  readonly changed: Readonly<Record<string, WireValue>>;
  readonly onChange: (changed: Readonly<Record<string, WireValue>>) => void;
}

/** Field by field what stands there, and what would; while it is open it can be changed. */
function ProposedFields({ proposal, changed, onChange }: ProposedProps) {
  const view = useModelView();
  const model = view.data ? modelOf(view.data) : null;
  const { state, target, fields, type } = proposal;
  const isOpen = state === 'open';
  return (
    <table className={kitStyle.members}>
      <thead>
        <tr>
          <th scope="col">{proposal.typeName}</th>
          {target ? <th scope="col">Now</th> : null}
          <th scope="col">
            {target ? (isOpen ? 'Would become' : 'Became') : isOpen ? 'Would hold' : 'Holds'}
          </th>
        </tr>
      </thead>
      <tbody>
        {fields.map(({ field: key, fieldName, before, after, missing, candidates }) => {
          const field = model?.field(type, key);
          const value = key in changed ? changed[key]! : (after?.wire ?? null);
          return (
            <tr key={key}>
              <th scope="row">{fieldName}</th>
              {target ? <td className="was">{before?.text ?? ''}</td> : null}
              <td>
                {isOpen && missing === 'several' ? (
                  <Radio.Group
                    aria-label={`${fieldName}: which of several`}
                    value={changed[key] ?? null}
                    orientation="vertical"
                    options={candidates.map(({ id: one, title, under }) => ({
                      value: one,
                      label: (
                        <>
                          {title} <span className="quiet">{under}</span>
                        </>
                      ),
                    }))}
                    onChange={(event) => onChange({ ...changed, [key]: event.target.value as string })}
                  />
                ) : isOpen && field && field.type.kind !== 'serial' ? (
                  <ValueInput
                    type={field.type}
                    value={value}
                    title={key in changed ? undefined : after?.text}
                    label={`${fieldName} as it would become`}
                    onChange={(next) => {
                      const { [key]: _old, ...others } = changed;
                      onChange(sameWire(next, after?.wire ?? null) ? others : { ...changed, [key]: next });
                    }}
                  />
                ) : (
                  (after?.text ?? '')
                )}
                {missing === 'empty' && (value ?? null) === null ? (
                  <span className={kitStyle.problemWord}>Nothing gives it: enter a value.</span>
                ) : null}
                {missing === 'taken' && !(key in changed) ? (
                  <span className={kitStyle.problemWord}>
                    Another record has this already: enter another.
                  </span>
                ) : null}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

interface FollowsProps {
  readonly ripple: SavedRun['ripple'] | undefined;
  readonly error: Error | null;
}

/** What approving it would bring about beyond itself. */
function WhatFollows({ ripple, error }: FollowsProps) {
  const waves = ripple?.waves.filter(({ number }) => number > 0) ?? [];
  return (
    <div className={style.proposalRipple}>
      <h3>What would follow</h3>
      {ripple ? (
        waves.length > 0 ? (
          <Ripple ripple={{ ...ripple, waves }} linked />
        ) : (
          <p className="quiet">Nothing else changes.</p>
        )
      ) : error ? null : (
        <Loading what="what would follow" />
      )}
    </div>
  );
}
