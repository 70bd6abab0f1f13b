'use client';

import { useQueries } from '@tanstack/react-query';
import { isUnread, sameData, type WireValue } from '@/core/values';
import type { RequestPoint } from '@/core/verify';
import type { RequestView } from '@/core/api';
import { ConfigProvider, Popconfirm, Select } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useWhyNot } from '@/ui/api/may';
import { proofsOf, useInvalidate, useRequests, useRules } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ButtonLink, Link, useRouter } from '@/ui/kit/navigation';
import { useSaveKey } from '@/ui/kit/hooks/use-save-key';
import { useUnsaved } from '@/ui/kit/unsaved';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import { Agreements } from './agreements';
import { RequestPoints } from './request-points';
import { RequestFields } from './requests-page';
import { RequestStandingPart } from './request-standing';
import { clsx } from 'clsx';
import requestsStyle from './requests.module.css';
import style from './request-page.module.css';

/** What a colleague asked for: their words, what must be true, the rules and proofs for it, how it stands and who agreed. */
export function RequestPage({ id }: { id: string }) {
  const { data, error } = useRequests();
  const request = data?.requests.find((one) => one.id === id);
  if (request) return <RequestEditor key={`${request.id} ${request.version}`} request={request} />;
  if (!data && !error) return <Loading what="the request" />;
  return (
    <div className="place-body">
      <ProblemNotice error={error} />
      {error ? null : <p>There is no such request. It may have been removed.</p>}
      <p>
        <Link href="/requests">Back to the requests</Link>
      </p>
    </div>
  );
}

type Written = Pick<RequestView, 'name' | 'askedBy' | 'words'> & {
  readonly due: WireValue;
  readonly points: readonly RequestPoint[];
  readonly rules: readonly string[];
};

const writtenOf = ({ name, askedBy, words, due, points, rules }: RequestView): Written => ({
  ...{ name, askedBy, words, due, points },
  rules: rules.map((rule) => rule.id),
});

function RequestEditor({ request }: { request: RequestView }) {
  const person = usePerson();
  const forget = useInvalidate();
  const router = useRouter();
  const { run, isBusy, error } = useTask();
  const [written, setWritten] = useState(() => writtenOf(request));
  const change = (part: Partial<Written>) => setWritten({ ...written, ...part });
  const whyNot = useWhyNot('writeRules');
  const isChanged = !sameData(written, writtenOf(request));
  useUnsaved(isChanged ? `Changes of “${request.name}”` : null);
  const further = useFurtherProofs(
    written.rules.filter((id) => request.rules.every((rule) => rule.id !== id)),
  );
  const isWhole =
    written.name.trim() !== '' &&
    !isUnread(written.due) &&
    written.points.every((point: RequestPoint) => point.text.trim() !== '');
  const save = () =>
    run(
      async () => {
        await callApi(`/requests/${request.id}`, {
          method: 'PATCH',
          body: { ...written, version: request.version },
          person: person.id,
        });
        await forget.everything();
      },
      () => 'Saved.',
    );
  useSaveKey(isChanged && isWhole && !isBusy ? () => void save() : null);
  const remove = () =>
    run(
      async () => {
        await callApi(`/requests/${request.id}`, { method: 'DELETE', person: person.id });
        await forget.everything();
      },
      () => `“${request.name}” is removed. Its rules and proofs stay.`,
      () => router.push('/requests'),
    );
  return (
    <>
      <header className="place-head">
        <h1 title={request.name}>{request.name}</h1>
        <span className={request.standing.isMet ? requestsStyle.requestMet : 'place-lead'}>
          {request.standing.isMet ? 'Met' : 'Not met yet'}
        </span>
        <div className="place-actions">
          <Popconfirm
            title="Remove this request?"
            description="Its rules and proofs stay; who agreed to it goes with it."
            okText="Remove it"
            cancelText="Not now"
            onConfirm={() => void remove()}
          >
            <MayButton right="writeRules" type="text" danger>
              Remove
            </MayButton>
          </Popconfirm>
          <ButtonLink href={`/requests/${request.id}/sheet`}>Acceptance sheet</ButtonLink>
          <MayButton
            right="writeRules"
            type="primary"
            disabled={!isChanged || !isWhole}
            loading={isBusy}
            onClick={() => void save()}
          >
            Save
          </MayButton>
        </div>
      </header>
      <ConfigProvider componentDisabled={whyNot !== null}>
        <div className={clsx('place-body', style.requestColumns)}>
          <div>
            {whyNot === null ? null : <p className={clsx('quiet', style.requestWhyNot)}>{whyNot}</p>}
            <ProblemNotice error={error} />
            <section className={clsx('sheet', style.requestAsked)} aria-label="What was asked for">
              <RequestFields written={written} onChange={change} />
            </section>
            <section className="sheet" aria-label="What must be true">
              <div className="sheet-head">
                <h2>What must be true</h2>
                <span className="quiet">Each point is shown by proofs</span>
              </div>
              <RequestPoints
                points={written.points}
                shown={request.standing.points}
                proofs={[
                  ...request.rules
                    .filter(({ id }) => written.rules.includes(id))
                    .flatMap((rule) => rule.proofs),
                  ...further,
                ]}
                onChange={(points) => change({ points })}
              />
            </section>
          </div>
          <div>
            <RequestRules request={request} rules={written.rules} onChange={(rules) => change({ rules })} />
            <RequestStandingPart request={request} />
            <Agreements request={request} />
          </div>
        </div>
      </ConfigProvider>
    </>
  );
}

/** Proofs of rules that were chosen and aren’t saved yet. */
const useFurtherProofs = (rules: readonly string[]): readonly { id: string; name: string }[] =>
  useQueries({ queries: rules.map(proofsOf) }).flatMap(({ data }) =>
    (data?.proofs ?? []).map(({ proof: { id, name } }) => ({ id, name })),
  );

interface RequestRulesProps {
  readonly request: RequestView;
  readonly rules: readonly string[];
  readonly onChange: (rules: readonly string[]) => void;
}

function RequestRules({ request, rules: chosen, onChange }: RequestRulesProps) {
  const rules = useRules();
  return (
    <section className="sheet" aria-label="Rules for it">
      <div className="sheet-head">
        <h2>Rules for it</h2>
        <Link href={`/rules/new?request=${request.id}`}>Write one</Link>
      </div>
      <div className={requestsStyle.requestPart}>
        <Select
          mode="multiple"
          aria-label="Rules of the request"
          placeholder="Choose rules that are there"
          value={[...chosen]}
          loading={!rules.data}
          showSearch={{ optionFilterProp: 'label' }}
          options={rules.data?.rules.map(({ id, name }) => ({ value: id, label: name })) ?? []}
          onChange={(to: string[]) => onChange(to)}
          style={{ width: '100%' }}
        />
        <ProblemNotice error={rules.error} />
      </div>
    </section>
  );
}
