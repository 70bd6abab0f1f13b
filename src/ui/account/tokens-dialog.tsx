import { type NewToken, RIGHTS, type Right, type TokenView } from '@/core/api';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Checkbox, Input, Select } from 'antd';
import { useId, useState } from 'react';
import { callServer } from '@/ui/api/client';
import { useWorkspaces } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { ShownSecret } from '@/ui/account/shown-secret';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Loading } from '@/ui/kit/loading';
import { useWorkspaceKey } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import style from './account.module.css';

const KEY = ['ownTokens'];
const RIGHT_CHOICES = (Object.keys(RIGHTS) as Right[]).map((value) => ({ value, label: RIGHTS[value] }));
const DAYS = [30, 90, 365].map((value) => ({ value, label: `${value} days` }));

/** One's tokens, by which programs act: made, told once, ended. */
export function TokensDialog({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const { data, error } = useQuery({
    queryKey: KEY,
    queryFn: () => callServer<{ tokens: TokenView[] }>('/api/v1/tokens'),
  });
  const [made, setMade] = useState<string | null>(null);
  const ending = useTask();
  const refresh = () => void client.invalidateQueries({ queryKey: KEY });
  const end = ({ handle, name }: TokenView) =>
    void ending.run(
      () => callServer(`/api/v1/tokens/${handle}`, { method: 'DELETE' }),
      () => `“${name}” isn’t good any more`,
      refresh,
    );
  return (
    <Dialog open title="Tokens for programs" footer={null} onCancel={onClose}>
      <p className="quiet">
        A program that sends one acts as you, with no more than it was given. Whoever finds one can do the
        same: end it then.
      </p>
      <ProblemNotice error={error ?? ending.error} />
      {made ? (
        <div role="status">
          <p>Give it to the program now: it isn’t shown again.</p>
          <ShownSecret text={made} />
          <Button size="small" onClick={() => void navigator.clipboard.writeText(made)}>
            Copy it
          </Button>
        </div>
      ) : null}
      {data ? (
        <ul className={style.list} aria-label="Your tokens">
          {data.tokens.map((token) => (
            <li key={token.handle}>
              <div>
                <strong>{token.name}</strong>
                <div className="quiet">
                  {token.rights.map((right) => RIGHTS[right]).join('; ')} · in {token.workspaces.join(', ')} ·
                  until {when(token.ends)} · {token.used ? `used last ${when(token.used)}` : 'not used yet'}
                </div>
              </div>
              <Button
                size="small"
                disabled={ending.isBusy}
                onClick={() => end(token)}
                aria-label={`End ${token.name}`}
              >
                End it
              </Button>
            </li>
          ))}
        </ul>
      ) : error ? null : (
        <Loading what="your tokens" />
      )}
      <NewTokenForm
        onMade={(text) => {
          setMade(text);
          refresh();
        }}
      />
    </Dialog>
  );
}

function NewTokenForm({ onMade }: { onMade: (token: string) => void }) {
  const here = useWorkspaceKey();
  const { data } = useWorkspaces();
  const [name, setName] = useState('');
  const [rights, setRights] = useState<readonly Right[]>(['see']);
  const [workspaces, setWorkspaces] = useState<readonly string[]>([here]);
  const [days, setDays] = useState(90);
  const making = useTask();
  const id = useId();
  const make = () => {
    const body: NewToken = { name, rights, workspaces, days };
    void making.run(
      () => callServer<{ token: string }>('/api/v1/tokens', { method: 'POST', body }),
      null,
      ({ token }) => {
        setName('');
        onMade(token);
      },
    );
  };
  return (
    <fieldset className={style.make}>
      <legend>Make one</legend>
      <label htmlFor={`${id}name`}>For which program</label>
      <Input id={`${id}name`} value={name} onChange={(event) => setName(event.target.value)} />
      <span id={`${id}rights`}>What it may, where you may too</span>
      <Checkbox.Group
        className={style.rights}
        aria-labelledby={`${id}rights`}
        options={RIGHT_CHOICES}
        value={[...rights]}
        onChange={setRights}
      />
      <label htmlFor={`${id}where`}>In which workspaces</label>
      <Select
        id={`${id}where`}
        mode="multiple"
        value={[...workspaces]}
        onChange={setWorkspaces}
        options={(data?.workspaces ?? []).map((one) => ({ value: one.key, label: one.name }))}
      />
      <label htmlFor={`${id}days`}>For how long</label>
      <Select id={`${id}days`} value={days} onChange={setDays} options={DAYS} />
      <ProblemNotice error={making.error} />
      <Button
        type="primary"
        disabled={name.trim() === '' || rights.length === 0 || workspaces.length === 0}
        loading={making.isBusy}
        onClick={make}
      >
        Make the token
      </Button>
    </fieldset>
  );
}
