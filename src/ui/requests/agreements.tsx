'use client';

import type { RequestView } from '@/core/api';
import { Input } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { when } from '@/ui/kit/values/when';
import { usePerson } from '@/ui/api/person';
import requestsStyle from './requests.module.css';
import style from './agreements.module.css';

/** Who agreed to what it came to, and a way to write another down. */
export function Agreements({ request }: { request: RequestView }) {
  const person = usePerson();
  const forget = useInvalidate();
  const { run, isBusy, error } = useTask();
  const [name, setName] = useState(request.askedBy);
  const [note, setNote] = useState('');
  const agree = () =>
    run(
      async () => {
        await callApi(`/requests/${request.id}/agreements`, {
          method: 'POST',
          body: { name, note, version: request.version },
          person: person.id,
        });
        await forget.everything();
      },
      () => `${name} agrees.`,
      () => setNote(''),
    );
  return (
    <section className="sheet" aria-label="Who agreed">
      <div className="sheet-head">
        <h2>Who agreed</h2>
      </div>
      <div className={requestsStyle.requestPart}>
        <AgreementList request={request} />
        <div className={style.requestAgree}>
          <Input
            aria-label="Who agrees"
            maxLength={200}
            value={name}
            placeholder="Who agrees"
            onChange={(event) => setName(event.target.value)}
          />
          <Input
            aria-label="Note to the agreement"
            maxLength={500}
            value={note}
            placeholder="How: by mail, in the meeting …"
            onChange={(event) => setNote(event.target.value)}
          />
          <MayButton
            right="writeRules"
            disabled={name.trim() === ''}
            loading={isBusy}
            onClick={() => void agree()}
          >
            Agrees
          </MayButton>
        </div>
        <ProblemNotice error={error} />
      </div>
    </section>
  );
}

/** Each agreement, and whether it is to what stands there now. */
export function AgreementList({ request: { agreements } }: { request: RequestView }) {
  if (agreements.length === 0) return <p className="quiet">Nobody has agreed to it yet.</p>;
  return (
    <ul className={requestsStyle.requestAgreements}>
      {agreements.map(({ id, name, note, at, person, isOfNow }) => (
        <li key={id}>
          <strong>{name}</strong> agreed {when(at)}
          {note ? ` (${note})` : ''}
          <span className="quiet">
            {person ? `; written down by ${person}` : ''}
            {isOfNow ? '' : '. A point or a rule was changed since: ask again.'}
          </span>
        </li>
      ))}
    </ul>
  );
}
