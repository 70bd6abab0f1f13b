'use client';

import { type Field, type Model, typeIn } from '@/core/model';
import { parseValue, type WireValue } from '@/core/values';
import type { ModelView } from '@/core/api';
import { Button, Select } from 'antd';
import { useState } from 'react';
import { liveKeeper } from '@/ui/kit/live-keeper';
import { ValueInput } from '@/ui/kit/values/value-input';
import style from './bulk-form.module.css';

export interface BulkFormState {
  readonly offered: readonly Field[];
  readonly field: Field | undefined;
  readonly value: WireValue;
  readonly isEntered: boolean;
  /** What the records are to have; `null` while that isn't entered or doesn't fit. */
  readonly values: Readonly<Record<string, WireValue>> | null;
  readonly choose: (key: string) => void;
  readonly enter: (value: WireValue) => void;
}

/** One field and the value that many records are to have in it. What rules keep, what tells records apart and what Oikon gives isn't offered. */
export function useBulkForm(model: Model, view: ModelView, type: string): BulkFormState {
  const { fields, title } = typeIn(model, type);
  const offered = fields.filter(
    (field) =>
      !liveKeeper(view, type, field.key) &&
      !field.unique &&
      field.key !== title &&
      field.type.kind !== 'serial',
  );
  const [key, setKey] = useState<string | null>(null);
  const [value, setValue] = useState<WireValue>(null);
  const [isEntered, setEntered] = useState(false);
  const field = key === null ? undefined : offered.find((one) => one.key === key);
  const fits =
    field !== undefined &&
    isEntered &&
    parseValue(field.type, value).ok &&
    !(field.required && value === null);
  return {
    ...{ offered, field, value, isEntered },
    values: fits ? { [field.key]: value === '' ? null : value } : null,
    choose: (next) => {
      setKey(next);
      setValue(null);
      setEntered(false);
    },
    enter: (next) => {
      setValue(next);
      setEntered(true);
    },
  };
}

export function BulkForm({ form }: { form: BulkFormState }) {
  const { offered, field, value, isEntered, values, choose, enter } = form;
  return (
    <div className={style.bulkForm}>
      <label htmlFor="bulk-field">Field</label>
      <Select
        id="bulk-field"
        placeholder="which field"
        value={field?.key ?? null}
        options={offered.map((one) => ({ value: one.key, label: one.name }))}
        showSearch={{ optionFilterProp: 'label' }}
        onChange={choose}
      />
      {field ? (
        <>
          <label htmlFor="bulk-value">New value</label>
          <ValueInput
            key={field.key}
            id="bulk-value"
            label="New value"
            type={field.type}
            value={value}
            isWrong={isEntered && values === null}
            onChange={enter}
          />
          {field.required ? null : (
            <Button size="small" style={{ gridColumn: 2, justifySelf: 'start' }} onClick={() => enter(null)}>
              Empty it
            </Button>
          )}
        </>
      ) : null}
    </div>
  );
}
