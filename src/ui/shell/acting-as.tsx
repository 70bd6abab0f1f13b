'use client';

import { Select } from 'antd';
import { usePerson } from '@/ui/api/person';
import style from './acting-as.module.css';

/** Who acts, chosen where no rail has it. */
export function ActingAs() {
  const { people, id, choose } = usePerson();
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
