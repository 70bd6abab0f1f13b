import { type MenuProps, Dropdown } from 'antd';
import dynamic from 'next/dynamic';
import { useState } from 'react';
import { PasswordDialog } from '@/ui/account/password-dialog';
import { SessionsDialog } from '@/ui/account/sessions-dialog';
import { TokensDialog } from '@/ui/account/tokens-dialog';
import { usePerson } from '@/ui/api/person';
import { useWorkspaces } from '@/ui/api/queries';
import { useSession } from '@/ui/api/session';
import { useSignOut } from '@/ui/account/use-sign-out';
import { useWorkspaceKey } from '@/ui/kit/navigation';
import { WhereUsedDialog } from '@/ui/uses/where-used-dialog';
import { FormDialog } from './form-dialog';
import { clsx } from 'clsx';
import style from './shell.module.css';

/** What reads keys and draws squares comes when it is wanted. */
const WaysInDialog = dynamic(() =>
  import('@/ui/account/ways-in-dialog').then(({ WaysInDialog: dialog }) => dialog),
);

const initialsOf = (name: string) =>
  name
    .split(' ')
    .map((part) => part[0])
    .join('')
    .slice(0, 2);

type Opened = 'form' | 'uses' | 'sessions' | 'password' | 'ways' | 'tokens';
const SIGN_OUT = 'signOut';
const isDialog = (chosen: string): chosen is Opened =>
  ['form', 'uses', 'sessions', 'password', 'ways', 'tokens'].includes(chosen);

/** Who acts, at the foot of the rail, with what is theirs: in the demo another may be chosen, elsewhere one signs out. */
export function PersonSwitch() {
  const { people, id, choose } = usePerson();
  const { isDemo } = useSession();
  const { data } = useWorkspaces();
  const [opened, setOpened] = useState<Opened | null>(null);
  const signOut = useSignOut();
  const key = useWorkspaceKey();
  const workspace = data?.workspaces.find((one) => one.key === key);
  const person = people.find((candidate) => candidate.id === id);
  if (!person) return null;
  const others: MenuProps['items'] = people.map(({ id: one, name, role }) => ({
    key: one,
    label: (
      <>
        {name} <span className="quiet">· {role}</span>
      </>
    ),
  }));
  const own: MenuProps['items'] = [
    { key: 'form', label: 'Numbers and dates …' },
    { key: 'uses', label: `Where ${person.name} is named …` },
  ];
  const account: MenuProps['items'] = [
    { key: 'sessions', label: 'Where you are signed in …' },
    { key: 'password', label: 'Change your password …' },
    { key: 'ways', label: 'Passkeys and second step …' },
    { key: 'tokens', label: 'Tokens for programs …' },
    { type: 'divider' },
    { key: SIGN_OUT, label: 'Sign out' },
  ];
  return (
    <div className={style.railFoot}>
      <Dropdown
        trigger={['click']}
        placement="topLeft"
        menu={{
          items: isDemo ? [...others, { type: 'divider' }, ...own] : [...own, ...account],
          selectable: isDemo,
          selectedKeys: isDemo ? [person.id] : [],
          onClick: ({ key: chosen }) => {
            if (chosen === SIGN_OUT) signOut();
            else if (isDialog(chosen)) setOpened(chosen);
            else choose(chosen);
          },
        }}
      >
        <button
          type="button"
          className={clsx('plain', style.railPerson)}
          aria-label={
            isDemo ? `Acting as ${person.name}. Change who acts` : `Signed in as ${person.name}. Your account`
          }
          style={{ textAlign: 'center' }}
        >
          <span className={style.railInitials} aria-hidden>
            {initialsOf(person.name)}
          </span>
          {person.name}
        </button>
      </Dropdown>
      {opened === 'form' && workspace ? (
        <FormDialog {...{ workspace, person }} onClose={() => setOpened(null)} />
      ) : null}
      {opened === 'uses' ? (
        <WhereUsedDialog
          named={{ kind: 'person', person: person.id }}
          title={person.name}
          onClose={() => setOpened(null)}
        />
      ) : null}
      {opened === 'ways' ? <WaysInDialog onClose={() => setOpened(null)} /> : null}
      {opened === 'tokens' ? <TokensDialog onClose={() => setOpened(null)} /> : null}
      {opened === 'password' ? <PasswordDialog onClose={() => setOpened(null)} /> : null}
      {opened === 'sessions' ? <SessionsDialog onClose={() => setOpened(null)} /> : null}
    </div>
  );
}
