import type { PasskeyView } from '@/core/api';
import { startRegistration } from '@simplewebauthn/browser';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { useId, useState } from 'react';
import { callServer } from '@/ui/api/client';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { inKeyWords } from './key-words';
import style from './account.module.css';

const KEY = ['ownPasskeys'];

type Options = Parameters<typeof startRegistration>[0]['optionsJSON'];

/** One's passkeys: made with this device or a key, named, removed. */
export function Passkeys({ onMade }: { onMade?: () => void }) {
  const client = useQueryClient();
  const { data, error } = useQuery({
    queryKey: KEY,
    queryFn: () => callServer<{ passkeys: PasskeyView[] }>('/api/v1/passkeys'),
  });
  const [name, setName] = useState('');
  const task = useTask();
  const id = useId();
  const refresh = () => void client.invalidateQueries({ queryKey: KEY });
  const make = () =>
    void task.run(
      async () => {
        const { options } = await callServer<{ options: Options }>('/api/v1/passkeys/challenges', {
          method: 'POST',
        });
        const response = await startRegistration({ optionsJSON: options }).catch(inKeyWords);
        await callServer('/api/v1/passkeys', { method: 'POST', body: { name, response } });
      },
      () => `You can sign in with “${name}” now`,
      () => {
        setName('');
        refresh();
        onMade?.();
      },
    );
  const remove = ({ handle, name: called }: PasskeyView) =>
    void task.run(
      () => callServer(`/api/v1/passkeys/${handle}`, { method: 'DELETE' }),
      () => `Nobody signs in with “${called}” any more`,
      refresh,
    );
  return (
    <section aria-labelledby={`${id}title`}>
      <h3 id={`${id}title`}>Passkeys</h3>
      <p className="quiet">
        You sign in with a finger, a face or a PIN, on this device or with a key that you carry: no password,
        and nothing that could be told to somebody.
      </p>
      <ProblemNotice error={error ?? task.error} />
      {data ? (
        <ul className={style.list} aria-label="Your passkeys">
          {data.passkeys.map((one) => (
            <li key={one.handle}>
              <div>
                <strong>{one.name}</strong>
                <div className="quiet">
                  made {when(one.made)} · {one.used ? `used last ${when(one.used)}` : 'not used yet'}
                </div>
              </div>
              <Button
                size="small"
                disabled={task.isBusy}
                aria-label={`Remove ${one.name}`}
                onClick={() => remove(one)}
              >
                Remove it
              </Button>
            </li>
          ))}
        </ul>
      ) : error ? null : (
        <Loading what="your passkeys" />
      )}
      <label htmlFor={`${id}name`}>Where it is, such as My laptop</label>
      <div className={style.inline}>
        <Input
          id={`${id}name`}
          value={name}
          maxLength={100}
          onChange={(event) => setName(event.target.value)}
        />
        <Button disabled={name.trim() === ''} loading={task.isBusy} onClick={make}>
          Make a passkey
        </Button>
      </div>
    </section>
  );
}
