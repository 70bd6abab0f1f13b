'use client';

import { safePath, type SessionAnswer } from '@/core/api';
import { startAuthentication } from '@simplewebauthn/browser';
import { Button } from 'antd';
import Link from 'next/link';
import { useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { inKeyWords } from '@/ui/account/key-words';
import { ApiProblem, callServer } from '@/ui/api/client';
import { openPage } from '@/ui/api/open-page';
import { useSession } from '@/ui/api/session';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { Entrance, EntryField, EntryForm, PasswordField, useListening } from './entrance';
import style from './entrance.module.css';

/** Why the company's sign-in let nobody in; what an address says otherwise is said to nobody. */
const WHY: Readonly<Record<string, string>> = {
  away: 'The company’s sign-in doesn’t answer right now. Try again in a moment, or sign in another way.',
  failed: 'The company’s sign-in didn’t let you in, or you were away for too long. Try again.',
  unknown:
    'The company’s sign-in knows you, and this installation doesn’t. Ask whoever administers your workspace to let you in with the e-mail that you have there.',
};

/** Signing in: by e-mail and password, with a code where that was set up, by a passkey, or by the company's sign-in; back to where one came from. */
export function SignInPage() {
  const { isDemo } = useSession();
  const [isForgotten, setForgotten] = useState(false);
  const [email, setEmail] = useState('');
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
  return isForgotten ? (
    <Forgotten {...{ email, setEmail }} onBack={() => setForgotten(false)} />
  ) : (
    <SignIn {...{ email, setEmail }} onForgotten={() => setForgotten(true)} />
  );
}

interface EmailProps {
  readonly email: string;
  readonly setEmail: (email: string) => void;
}

function SignIn({ email, setEmail, onForgotten }: EmailProps & { readonly onForgotten: () => void }) {
  const asked = useSearchParams();
  const to = safePath(asked.get('to'));
  const whyNot = WHY[asked.get('why') ?? ''];
  const { ways } = useSession();
  const [password, setPassword] = useState('');
  const [code, setCode] = useState<string | null>(null);
  const task = useTask();
  const enter = () =>
    void task.run(
      async () => {
        const body = { email, password, ...(code === null ? {} : { code }) };
        try {
          await callServer<SessionAnswer>('/api/v1/session', { method: 'POST', body });
        } catch (error) {
          // The password is right: what is asked for next isn't a mistake.
          if (!(error instanceof ApiProblem) || error.code !== 'signIn.code') throw error;
          setCode('');
          return false;
        }
        return true;
      },
      null,
      (isIn) => {
        if (isIn) openPage(to);
      },
    );
  if (code !== null)
    return (
      <Entrance
        title="The second step"
        lead="Give the code that your phone shows at this moment, or one of your spare codes."
      >
        <EntryForm press="Go in" error={task.error} isBusy={task.isBusy} onEnter={enter}>
          <EntryField name="Code" value={code} onChange={setCode} autoComplete="one-time-code" isFirst />
        </EntryForm>
      </Entrance>
    );
  return (
    <Entrance title="Sign in" lead="With your e-mail and your password.">
      {whyNot ? (
        <p role="alert" className={style.whyNot}>
          {whyNot}
        </p>
      ) : null}
      <EntryForm press="Sign in" error={task.error} isBusy={task.isBusy} onEnter={enter}>
        <EntryField name="E-mail" value={email} onChange={setEmail} autoComplete="username" isFirst />
        <PasswordField
          name="Password"
          value={password}
          onChange={setPassword}
          autoComplete="current-password"
        />
      </EntryForm>
      <OtherWays to={to} provider={ways.provider} />
      {ways.mail ? (
        <Button type="link" className={style.forgotten} onClick={onForgotten}>
          You have forgotten your password?
        </Button>
      ) : null}
    </Entrance>
  );
}

function OtherWays({ to, provider }: { to: string; provider: string | null }) {
  const task = useTask();
  const isListening = useListening();
  const byPasskey = () =>
    void task.run(
      async () => {
        const { options } = await callServer<{
          options: Parameters<typeof startAuthentication>[0]['optionsJSON'];
        }>('/api/v1/session/passkey-challenges', { method: 'POST' });
        const response = await startAuthentication({ optionsJSON: options }).catch(inKeyWords);
        await callServer<SessionAnswer>('/api/v1/session/passkey', { method: 'POST', body: { response } });
      },
      null,
      () => openPage(to),
    );
  if (!isListening) return null;
  return (
    <div className={style.ways}>
      <ProblemNotice error={task.error} />
      <Button block loading={task.isBusy} onClick={byPasskey}>
        Sign in with a passkey
      </Button>
      {provider === null ? null : (
        <Button block onClick={() => openPage(`/api/v1/session/provider?to=${encodeURIComponent(to)}`)}>
          Sign in with {provider}
        </Button>
      )}
    </div>
  );
}

/** Whoever has forgotten their password is sent an address; whether there is such an account isn't said. */
function Forgotten({ email, setEmail, onBack }: EmailProps & { readonly onBack: () => void }) {
  const task = useTask();
  const [isSent, setSent] = useState(false);
  const ask = () =>
    void task.run(
      () => callServer('/api/v1/session/password-addresses', { method: 'POST', body: { email } }),
      null,
      () => setSent(true),
    );
  return (
    <Entrance
      title={isSent ? 'Look into your mail' : 'Choose a new password'}
      lead={
        isSent
          ? `If there is an account with ${email}, an address is on its way there. It is good for half an hour.`
          : 'Give the e-mail of your account. An address is sent there, by which you choose a new password.'
      }
    >
      {isSent ? null : (
        <EntryForm press="Send it" error={task.error} isBusy={task.isBusy} onEnter={ask}>
          <EntryField name="E-mail" value={email} onChange={setEmail} autoComplete="username" isFirst />
        </EntryForm>
      )}
      <Button type="link" className={style.forgotten} onClick={onBack}>
        Back to signing in
      </Button>
    </Entrance>
  );
}
