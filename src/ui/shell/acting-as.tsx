'use client';

import { Button, Select } from 'antd';
import { callServer } from '@/ui/api/client';
import { openPage } from '@/ui/api/open-page';
import { usePerson } from '@/ui/api/person';
import { useSession } from '@/ui/api/session';
import { useTask } from '@/ui/kit/hooks/use-task';
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
  const leaving = useTask();
  const signOut = () =>
    void leaving.run(
      () => callServer('/api/v1/session', { method: 'DELETE' }),
      null,
      () => openPage('/sign-in'),
    );
  return (
    <span className={style.actingAs}>
      <span className="quiet">Signed in as</span> {name}
      <Button type="text" size="small" onClick={signOut}>
        Sign out
      </Button>
    </span>
  );
}
