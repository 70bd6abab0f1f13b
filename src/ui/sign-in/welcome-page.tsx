'use client';

import type { SessionAnswer, Welcome } from '@/core/api';
import { useQuery } from '@tanstack/react-query';
import { useState, useSyncExternalStore } from 'react';
import { callServer } from '@/ui/api/client';
import { openPage } from '@/ui/api/open-page';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Loading } from '@/ui/kit/loading';
import { Entrance, EntryField, EntryForm, PasswordField } from './entrance';

const HINT = 'At least 12 characters. A few words that only you would put together are good.';

const subscribe = (listener: () => void) => {
  addEventListener('hashchange', listener);
  return () => removeEventListener('hashchange', listener);
};

/** What stands behind the # of an address that is good once: the browser sends it to nobody by itself. */
const useSecret = (): string | null =>
  useSyncExternalStore(
    subscribe,
    () => location.hash.slice(1),
    () => null,
  );

/** Where an address leads that is good once: the first administrator's account, or a password that is chosen. */
export function WelcomePage() {
  const secret = useSecret();
  const { data, error } = useQuery({
    queryKey: ['welcome', secret],
    enabled: secret !== null && secret !== '',
    retry: false,
    staleTime: Infinity,
    queryFn: () => callServer<Welcome>('/api/v1/welcome', { method: 'POST', body: { secret } }),
  });
  if (secret === '' || error)
    return (
      <Entrance
        title="This address isn’t good"
        lead={error?.message ?? 'Something is missing at its end. Open it again as it was given to you.'}
      />
    );
  if (!data || secret === null) return <Loading what="your welcome" />;
  return data.kind === 'administrator' ? (
    <FirstAdministrator secret={secret} />
  ) : (
    <NewPassword {...{ secret, welcome: data }} />
  );
}

const goIn = () => openPage('/');

function FirstAdministrator({ secret }: { secret: string }) {
  const [name, setName] = useState('');
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const task = useTask();
  const enter = () =>
    void task.run(
      () =>
        callServer<SessionAnswer>('/api/v1/welcome/administrator', {
          method: 'POST',
          body: { secret, name, email, password },
        }),
      null,
      goIn,
    );
  return (
    <Entrance
      title="Welcome to Oikon"
      lead="Make the first account. It sees to this installation: workspaces, and who may come in."
    >
      <EntryForm press="Make it, and go in" error={task.error} isBusy={task.isBusy} onEnter={enter}>
        <EntryField name="Your name" value={name} onChange={setName} autoComplete="name" isFirst />
        <EntryField name="E-mail" value={email} onChange={setEmail} autoComplete="username" />
        <PasswordField
          name="Password"
          value={password}
          onChange={setPassword}
          hint={HINT}
          autoComplete="new-password"
        />
      </EntryForm>
    </Entrance>
  );
}

function NewPassword({ secret, welcome }: { secret: string; welcome: Welcome }) {
  const [password, setPassword] = useState('');
  const task = useTask();
  const enter = () =>
    void task.run(
      () =>
        callServer<SessionAnswer>('/api/v1/welcome/password', {
          method: 'POST',
          body: { secret, password },
        }),
      null,
      ({ person }) => openPage(person === null ? '/sign-in' : '/'),
    );
  return (
    <Entrance
      title={`Welcome, ${welcome.name}`}
      lead={`Choose the password with which you sign in as ${welcome.email}. Wherever else you are signed in, that ends.`}
    >
      <EntryForm press="Choose it, and go in" error={task.error} isBusy={task.isBusy} onEnter={enter}>
        <PasswordField
          name="New password"
          value={password}
          onChange={setPassword}
          hint={HINT}
          autoComplete="new-password"
          isFirst
        />
      </EntryForm>
    </Entrance>
  );
}
