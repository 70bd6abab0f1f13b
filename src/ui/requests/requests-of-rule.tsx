'use client';

import { foundIn } from '@/core/values';
import { Select } from 'antd';
import { callApi } from '@/ui/api/client';
import { useInvalidate, useRequests } from '@/ui/api/queries';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import style from './requests-of-rule.module.css';

/** Under which requests a rule hangs, and a way to hang it under another. */
export function RequestsOfRule({ rule }: { rule: string }) {
  const person = usePerson();
  const forget = useInvalidate();
  const { data, error: unread } = useRequests();
  const { run, isBusy, error } = useTask();
  const requests = data?.requests ?? [];
  const own = requests.filter(({ rules }) => rules.some(({ id }) => id === rule));
  const others = requests.filter((one) => !own.includes(one));
  const hang = (id: string) =>
    run(
      async () => {
        const { version, rules } = foundIn(requests, (one) => one.id === id);
        await callApi(`/requests/${id}`, {
          method: 'PATCH',
          body: { version, rules: [...rules.map((one) => one.id), rule] },
          person: person.id,
        });
        await forget.everything();
      },
      () => 'It hangs under the request.',
    );
  return (
    <div className={style.ruleRequests} aria-label="Requests">
      <span className="quiet">{own.length > 0 ? 'Asked for in' : 'Asked for in no request yet.'}</span>
      {own.map(({ id, name }) => (
        <Link key={id} href={`/requests/${id}`}>
          {name}
        </Link>
      ))}
      {others.length > 0 ? (
        <Select
          size="small"
          aria-label="Hang it under a request"
          placeholder="Hang it under a request"
          value={null}
          loading={isBusy}
          showSearch={{ optionFilterProp: 'label' }}
          options={others.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(id: string | null) => id && void hang(id)}
          style={{ minWidth: 190 }}
        />
      ) : null}
      <ProblemNotice error={error ?? unread} />
    </div>
  );
}
