'use client';

import { writeCount } from '@/core/values';
import { Checkbox, Input } from 'antd';
import type { InSight } from './in-sight';
import style from './narrow-family.module.css';

/** What a family is narrowed to. */
export interface Narrowed {
  readonly search: string;
  readonly isOnlyChanged: boolean;
}

export interface NarrowFamilyProps {
  readonly narrowed: Narrowed;
  readonly inSight: InSight;
  /** How many records are otherwise than they are stored. */
  readonly changed: number;
  readonly onNarrow: (narrowed: Narrowed) => void;
}

/** Finds records of the family by their titles, and leaves what didn't change out of sight. */
export function NarrowFamily({ narrowed, inSight, changed, onNarrow }: NarrowFamilyProps) {
  return (
    <search className={style.narrow}>
      <Input.Search
        allowClear
        className={style.search}
        aria-label="Search this family"
        placeholder="Search this family"
        value={narrowed.search}
        onChange={(event) => onNarrow({ ...narrowed, search: event.target.value })}
      />
      <Checkbox
        checked={narrowed.isOnlyChanged && changed > 0}
        disabled={changed === 0}
        onChange={(event) => onNarrow({ ...narrowed, isOnlyChanged: event.target.checked })}
      >
        Only what changed <span className="quiet">{writeCount(changed)}</span>
      </Checkbox>
      {inSight?.size === 0 ? <span className="quiet">No record is called that.</span> : null}
    </search>
  );
}
