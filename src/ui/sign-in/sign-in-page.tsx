'use client';

import type { SessionAnswer } from '@/core/api';
import Link from 'next/link';
import { useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { callServer } from '@/ui/api/client';
import { openPage } from '@/ui/api/open-page';
import { useSession } from '@/ui/api/session';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Entrance, EntryField, EntryForm, PasswordField } from './entrance';
import { safePath } from './safe-path';

/** Signing in by e-mail and password; back to where one came from. */
export function SignInPage() {
  const to = safePath(useSearchParams().get('to'));
  const { isDemo } = useSession();
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const task = useTask();
  if (isDemo)
    return (
      <Entrance
        title="This is a demo"
        lead={
          <>
            Nobody signs in to it. <Link href="/">Go in</Link>, and choose who you are at the foot of the
            rail.
          </>
        }
      />
    );
  const enter = () =>
    void task.run(
      () => callServer<SessionAnswer>('/api/v1/session', { method: 'POST', body: { email, password } }),
      null,
      () => openPage(to),
    );
  return (
    <Entrance title="Sign in" lead="With your e-mail and your password.">
      <EntryForm press="Sign in" error={task.error} isBusy={task.isBusy} onEnter={enter}>
        <EntryField name="E-mail" value={email} onChange={setEmail} autoComplete="username" isFirst />
        <PasswordField
          name="Password"
          value={password}
          onChange={setPassword}
          autoComplete="current-password"
        />
      </EntryForm>
    </Entrance>
  );
}
