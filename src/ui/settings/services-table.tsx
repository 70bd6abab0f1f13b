import type { RoleView, ServiceView, TokenView } from '@/core/api';
import { useQuery } from '@tanstack/react-query';
import { Button, Popconfirm, Select } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { useSession } from '@/ui/api/session';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { clsx } from 'clsx';
import { ServiceDialog } from './service-dialog';
import { ServiceTokenDialog } from './service-token-dialog';
import { roleChoices } from './role-choices';
import style from './settings.module.css';

/** Programs of the workspace's own: what each may, and its tokens. */
export function ServicesTable({ roles }: { roles: readonly RoleView[] }) {
  const { id: person } = usePerson();
  const { isDemo } = useSession();
  const invalidate = useInvalidate();
  const task = useTask();
  const [isMaking, setMaking] = useState(false);
  const [service, setService] = useState<ServiceView | null>(null);
  const { data, error } = useQuery({
    queryKey: ['services'],
    queryFn: () => callApi<{ services: ServiceView[] }>('/services'),
  });
  const refresh = () => void invalidate.everything();
  const change = ({ id, name }: ServiceView, access: string) =>
    void task.run(
      () => callApi(`/people/${id}`, { method: 'PATCH', body: { access }, person }),
      () => `${name} is ${roles.find(({ key }) => key === access)?.name ?? access} here now`,
      refresh,
    );
  const end = ({ id, name }: ServiceView) =>
    void task.run(
      () => callApi(`/people/${id}`, { method: 'DELETE', person }),
      () => `${name} may do nothing here any more`,
      refresh,
    );
  return (
    <section className={clsx('sheet', style.sheet)} aria-labelledby="services">
      <div className="sheet-head">
        <h2 id="services">Programs</h2>
        <Button size="small" onClick={() => setMaking(true)}>
          Add a program …
        </Button>
      </div>
      <ProblemNotice error={error ?? task.error} />
      {data?.services.length === 0 ? (
        <p className={clsx('quiet', style.note)}>
          There are none. A program acts as itself, by tokens of its own: what it does is told as its doing,
          and goes on whoever leaves.
        </p>
      ) : null}
      {data && data.services.length > 0 ? (
        <table className={style.people}>
          <thead>
            <tr>
              <th scope="col">Program</th>
              <th scope="col">What it may</th>
              <th scope="col">Tokens</th>
              <th scope="col">
                <span className="visually-hidden">Change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {data.services.map((one) => (
              <tr key={one.id}>
                <td>{one.name}</td>
                <td>
                  <Select
                    className={style.access}
                    aria-label={`What ${one.name} may`}
                    value={one.access}
                    disabled={task.isBusy}
                    options={roleChoices(roles)}
                    onChange={(access: string) => change(one, access)}
                  />
                </td>
                <td>
                  <Tokens service={one} />
                </td>
                <td>
                  {isDemo ? null : (
                    <Button
                      size="small"
                      type="text"
                      aria-label={`Make a token for ${one.name} …`}
                      onClick={() => setService(one)}
                    >
                      Make a token …
                    </Button>
                  )}
                  <Popconfirm
                    title={`End ${one.name}?`}
                    description="It may do nothing here from now on, at once. What it did stays told as its doing."
                    okText="End it"
                    cancelText="Leave it"
                    onConfirm={() => end(one)}
                  >
                    <Button size="small" type="text" aria-label={`End ${one.name} …`}>
                      End it …
                    </Button>
                  </Popconfirm>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {isMaking ? <ServiceDialog roles={roles} onClose={() => setMaking(false)} /> : null}
      {service ? (
        <ServiceTokenDialog service={service} roles={roles} onClose={() => setService(null)} />
      ) : null}
    </section>
  );
}

/** The tokens of a program, with when each was used last, and the press that ends it. */
function Tokens({ service }: { service: ServiceView }) {
  const { id: person } = usePerson();
  const invalidate = useInvalidate();
  const task = useTask();
  const end = ({ handle, name }: TokenView) =>
    void task.run(
      () => callApi(`/services/${service.id}/tokens/${handle}`, { method: 'DELETE', person }),
      () => `“${name}” isn’t good any more`,
      () => void invalidate.everything(),
    );
  return (
    <>
      <ProblemNotice error={task.error} />
      {service.tokens.length === 0 ? <span className="quiet">none</span> : null}
      {service.tokens.map((token) => (
        <div key={token.handle}>
          {token.name}{' '}
          <span className="quiet">
            until {when(token.ends)} · {token.used ? `used last ${when(token.used)}` : 'not used yet'}
          </span>{' '}
          <Button
            size="small"
            type="text"
            aria-label={`End ${token.name} of ${service.name}`}
            onClick={() => end(token)}
          >
            End it
          </Button>
        </div>
      ))}
    </>
  );
}
