'use client';

import type { RecordType } from '@/core/model';
import { Checkbox, Select } from 'antd';
import style from './model-map.module.css';

interface MapToolsProps {
  readonly types: readonly RecordType[];
  /** The chosen type; `null` while there is none. */
  readonly name: string | null;
  readonly isNear: boolean;
  readonly withFields: boolean;
  readonly onNear: (isNear: boolean) => void;
  readonly onFields: (withFields: boolean) => void;
  readonly onSeek: (type: string) => void;
}

/** Finds a type on the map, and says how much of it is shown. */
export function MapTools({ types, name, isNear, withFields, onNear, onFields, onSeek }: MapToolsProps) {
  return (
    <div className={style.mapTools}>
      <Select
        aria-label="Find a type"
        placeholder="Find a type"
        value={null}
        options={types.map(({ key, name: called }) => ({ value: key, label: called }))}
        onChange={onSeek}
        showSearch={{ optionFilterProp: 'label' }}
        style={{ width: 200 }}
      />
      <Checkbox checked={isNear} disabled={name === null} onChange={(event) => onNear(event.target.checked)}>
        Only {name ?? 'a type'} and its neighbours
      </Checkbox>
      <Checkbox checked={withFields} onChange={(event) => onFields(event.target.checked)}>
        Fields
      </Checkbox>
    </div>
  );
}
