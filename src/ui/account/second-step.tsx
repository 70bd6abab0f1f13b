import type { SecondFactorView } from '@/core/api';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { useId, useState } from 'react';
import { callServer } from '@/ui/api/client';
import { openPage } from '@/ui/api/open-page';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Loading } from '@/ui/kit/loading';
import { ShownSecret } from '@/ui/account/shown-secret';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { Square } from './square';
import style from './account.module.css';

const KEY = ['secondFactor'];

interface Begun {
  readonly address: string;
  readonly secret: string;
}

/** A second step after one's password: a code that a phone shows. Set up, shown to work, taken away. */
export function SecondStep({ onSet }: { onSet?: () => void }) {
  const client = useQueryClient();
  const { data, error } = useQuery({
    queryKey: KEY,
    queryFn: () => callServer<SecondFactorView>('/api/v1/second-factor'),
  });
  const [begun, setBegun] = useState<Begun | null>(null);
  const [spare, setSpare] = useState<readonly string[] | null>(null);
  const task = useTask();
  const id = useId();
  const refresh = () => void client.invalidateQueries({ queryKey: KEY });
  const begin = () =>
    void task.run(
      () => callServer<Begun>('/api/v1/second-factor', { method: 'POST' }),
      null,
      (given) => setBegun(given),
    );
  const confirm = (code: string) =>
    void task.run(
      () =>
        callServer<{ spare: string[] }>('/api/v1/second-factor/confirmations', {
          method: 'POST',
          body: { code },
        }),
      () =>
        'From now on you give a code after your password. Wherever else you were signed in, that has ended.',
      (given) => {
        setBegun(null);
        setSpare(given.spare);
        refresh();
      },
    );
  const remove = (code: string) =>
    void task.run(
      () => callServer('/api/v1/second-factor', { method: 'DELETE', body: { code } }),
      null,
      () => openPage('/sign-in'),
    );
  return (
    <section className={style.part} aria-labelledby={`${id}title`}>
      <h3 id={`${id}title`}>Second step</h3>
      <ProblemNotice error={error ?? task.error} />
      {!data ? (
        error ? null : (
          <Loading what="your second step" />
        )
      ) : spare ? (
        <>
          <p>
            Keep these codes where you find them without your phone. Each is good once, instead of the one
            that the phone shows; they aren’t shown again.
          </p>
          <ul className={style.codes} aria-label="Spare codes">
            {spare.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
          <Button type="primary" onClick={() => (onSet ? onSet() : setSpare(null))}>
            I have kept them
          </Button>
        </>
      ) : data.isSet ? (
        <>
          <p>
            After your password you give the code that your phone shows. {data.spare} spare codes are left. To
            take the second step away, give a code; you sign in again then.
          </p>
          <CodeForm label="A code" press="Take it away" isBusy={task.isBusy} onCode={remove} />
        </>
      ) : begun ? (
        <>
          <p>Have an app for codes on your phone read this, or type into it what stands beneath.</p>
          <Square text={begun.address} />
          <ShownSecret text={begun.secret} />
          <CodeForm
            label="The code that it shows now"
            press="It works"
            isBusy={task.isBusy}
            onCode={confirm}
          />
        </>
      ) : data.isPossible ? (
        <>
          <p className="quiet">After your password you give a code that an app on your phone shows.</p>
          <Button loading={task.isBusy} onClick={begin}>
            Set it up
          </Button>
        </>
      ) : (
        <p className="quiet">
          This installation has no key of its own, so it keeps no second step. Make a passkey instead, or ask
          an operator to set one.
        </p>
      )}
    </section>
  );
}

interface CodeFormProps {
  readonly label: string;
  readonly press: string;
  readonly isBusy: boolean;
  readonly onCode: (code: string) => void;
}

function CodeForm({ label, press, isBusy, onCode }: CodeFormProps) {
  const [code, setCode] = useState('');
  const id = useId();
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onCode(code);
      }}
    >
      <label htmlFor={id}>{label}</label>
      <div className={style.inline}>
        <Input
          id={id}
          value={code}
          inputMode="numeric"
          autoComplete="one-time-code"
          onChange={(event) => setCode(event.target.value)}
        />
        <Button htmlType="submit" disabled={code.trim() === ''} loading={isBusy}>
          {press}
        </Button>
      </div>
    </form>
  );
}
