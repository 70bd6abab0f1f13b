'use client';

import { isUnread, type WireValue, writeDate } from '@/core/values';
import type { RequestView } from '@/core/api';
import { PlusOutlined } from '@ant-design/icons';
import { Form, Input } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useInvalidate, useModelView, useRequests } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ButtonLink, Link, useRouter } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ValueInput } from '@/ui/kit/values/value-input';
import { usePerson } from '@/ui/api/person';
import { metWords } from './words';
import requestsStyle from './requests.module.css';
import style from './requests-page.module.css';
import { MayButton } from '@/ui/kit/may-button';

/** What colleagues asked for, and how much of it is met. */
export function RequestsPage() {
  const { data, error } = useRequests();
  const [isAdding, setAdding] = useState(false);
  return (
    <>
      <header className="place-head">
        <h1>Requests</h1>
        <span className="place-lead">
          {data && data.requests.length > 0
            ? `${metWords(data.requests)}: live, and proven.`
            : 'What colleagues asked for, in their words.'}
        </span>
        <div className="place-actions">
          <ButtonLink href="/rules">To the rules</ButtonLink>
          <MayButton
            right="writeRules"
            type="primary"
            icon={<PlusOutlined />}
            onClick={() => setAdding(true)}
          >
            Write a request down
          </MayButton>
        </div>
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        {data ? <RequestList requests={data.requests} /> : error ? null : <Loading what="the requests" />}
      </div>
      {isAdding ? <NewRequestDialog onClose={() => setAdding(false)} /> : null}
    </>
  );
}

function RequestList({ requests }: { requests: readonly RequestView[] }) {
  const model = useModelView();
  if (requests.length === 0)
    return (
      <div className="sheet nothing">
        <strong>No request is written down yet</strong>
        Write down what a colleague asks for: who, in their words, what must be true, and by when. Rules and
        proofs hang under it, so that you see at a glance what is met.
      </div>
    );
  const today = model.data?.settledDay ?? null;
  return (
    <section className="sheet" aria-label="Requests">
      <table className={style.requestTable}>
        <thead>
          <tr>
            <th scope="col">Request</th>
            <th scope="col">Asked by</th>
            <th scope="col">Wanted by</th>
            <th scope="col">Rules</th>
            <th scope="col">How it stands</th>
          </tr>
        </thead>
        <tbody>
          {requests.map((request) => (
            <RequestRow key={request.id} request={request} today={today} />
          ))}
        </tbody>
      </table>
    </section>
  );
}

function RequestRow({ request, today }: { request: RequestView; today: string | null }) {
  const { id, name, askedBy, words, due, rules, standing } = request;
  const isLate = !standing.isMet && due !== null && today !== null && due < today;
  const [first] = standing.wanting;
  const more = standing.wanting.length - 1;
  return (
    <tr>
      <td>
        <Link href={`/requests/${id}`}>{name}</Link>
        {words ? <span className={style.requestWords}>{words}</span> : null}
      </td>
      <td>{askedBy || <span className="quiet">Nobody named</span>}</td>
      <td className={isLate ? requestsStyle.requestLate : undefined}>
        {due ? writeDate(due) : <span className="quiet">No day</span>}
        {isLate ? <span className={style.requestLateWord}>late</span> : null}
      </td>
      <td>{rules.length}</td>
      <td>
        {standing.isMet ? (
          <span className={requestsStyle.requestMet}>Met</span>
        ) : (
          <>
            {first?.words}
            {more > 0 ? <span className="quiet"> And {more} more.</span> : null}
          </>
        )}
      </td>
    </tr>
  );
}

interface Written {
  readonly name: string;
  readonly askedBy: string;
  readonly words: string;
  /** A day, none, or what was typed and is none. */
  readonly due: WireValue;
}

function NewRequestDialog({ onClose }: { onClose: () => void }) {
  const person = usePerson();
  const forget = useInvalidate();
  const router = useRouter();
  const { run, isBusy, error } = useTask();
  const [written, setWritten] = useState<Written>({ name: '', askedBy: '', words: '', due: null });
  const change = (part: Partial<Written>) => setWritten({ ...written, ...part });
  const add = () =>
    run(
      async () => {
        const made = await callApi<RequestView>('/requests', {
          ...{ method: 'POST', body: written, person: person.id },
        });
        await forget.everything();
        return made;
      },
      ({ name }) => `“${name}” is written down.`,
      ({ id }) => router.push(`/requests/${id}`),
    );
  return (
    <Dialog
      open
      title="Write a request down"
      okText="Write it down"
      cancelText="Not now"
      okButtonProps={{ disabled: written.name.trim() === '' || isUnread(written.due), loading: isBusy }}
      onOk={() => void add()}
      onCancel={onClose}
    >
      <RequestFields written={written} onChange={change} isNew />
      <ProblemNotice error={error} />
    </Dialog>
  );
}

/** What was asked for, by whom, and by when. */
export function RequestFields({
  written: { name, askedBy, words, due },
  onChange,
  isNew = false,
}: {
  written: Written;
  onChange: (part: Partial<Written>) => void;
  isNew?: boolean;
}) {
  return (
    <Form layout="vertical" component="div" className={style.requestFields}>
      <Form.Item label="Name" htmlFor="request-name">
        <Input
          id="request-name"
          autoFocus={isNew}
          maxLength={80}
          value={name}
          placeholder="Insured totals on exhibitions"
          onChange={(event) => onChange({ name: event.target.value })}
        />
      </Form.Item>
      <Form.Item label="Asked by" htmlFor="request-asked-by">
        <Input
          id="request-asked-by"
          maxLength={200}
          value={askedBy}
          placeholder="Whoever asked, whether they use Oikon or not"
          onChange={(event) => onChange({ askedBy: event.target.value })}
        />
      </Form.Item>
      <Form.Item label="Wanted by" htmlFor="request-due">
        <ValueInput
          id="request-due"
          type={{ kind: 'date' }}
          label="Wanted by"
          value={due}
          onChange={(day) => onChange({ due: day })}
        />
      </Form.Item>
      <Form.Item label="In their words" htmlFor="request-words">
        <Input.TextArea
          id="request-words"
          autoSize={{ minRows: 3, maxRows: 10 }}
          maxLength={20_000}
          value={words}
          placeholder="Copy what they wrote, or write down what they said"
          onChange={(event) => onChange({ words: event.target.value })}
        />
      </Form.Item>
    </Form>
  );
}
