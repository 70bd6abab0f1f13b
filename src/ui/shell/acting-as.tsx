'use client';

import { Button, Select } from 'antd';
import { usePerson } from '@/ui/api/person';
import { useSession } from '@/ui/api/session';
import { useSignOut } from '@/ui/account/use-sign-out';
import style from './acting-as.module.css';

/** Who acts, chosen where no rail has it. */
export function ActingAs() {
  const { people, id, choose } = usePerson();
  const { isDemo, person } = useSession();
  if (!isDemo) return person ? <SignedInAs name={person.name} /> : null;
  if (people.length === 0) return null;
  return (
    <label className={style.actingAs}>
      <span className="quiet">Acting as</span>
      <Select
        aria-label="Acting as"
        value={id}
        onChange={choose}
        popupMatchSelectWidth={false}
        options={people.map((person) => ({ value: person.id, label: person.name }))}
      />
    </label>
  );
}

function SignedInAs({ name }: { name: string }) {
  const signOut = useSignOut();
  return (
    <span className={style.actingAs}>
      <span className="quiet">Signed in as</span> {name}
      <Button type="text" size="small" onClick={signOut}>
        Sign out
      </Button>
    </span>
  );
}
