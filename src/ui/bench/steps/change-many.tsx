'use client';

import { type Model, typeIn } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Rule } from '@/core/rules';
import { certain, type WireValue } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import { Checkbox, Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useMemo, useState } from 'react';
import { ValueInput } from '@/ui/kit/values/value-input';
import type { Step } from './steps';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './change-many.module.css';

interface ChangeManyProps {
  readonly model: Model;
  /** Members of the family as they would stand. */
  readonly records: readonly WireRecord[];
  /** Those that take part: what they keep can't be entered. */
  readonly rules: readonly Rule[];
  readonly onStage: (steps: readonly Step[]) => void;
  readonly onClose: () => void;
}

/** Gives one field of many records of the family a value, in one go. */
export function ChangeMany({ model, records, rules, onStage, onClose }: ChangeManyProps) {
  const { plan } = useMemo(() => buildPlan(model, rules), [model, rules]);
  const types = [...new Set(records.map(({ type }) => type))];
  const [type, setType] = useState(types[1] ?? types[0] ?? null);
  const [field, setField] = useState<string | null>(null);
  const [value, setValue] = useState<WireValue>(null);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const own = records.filter((record) => record.type === type);
  const fields = (type ? typeIn(model, type).fields : []).filter(
    ({ key, type: of }) => of.kind !== 'serial' && !plan.keeper({ type: certain(type), field: key }),
  );
  const chosen = fields.find(({ key }) => key === field) ?? null;
  const changed = own.filter(({ id }) => !left.has(id));
  const toggle = (id: string) =>
    setLeft(left.has(id) ? new Set([...left].filter((one) => one !== id)) : new Set([...left, id]));
  return (
    <Dialog
      open
      title="Change many"
      okText={`Change ${changed.length}`}
      cancelText="Not now"
      okButtonProps={{ disabled: !chosen || changed.length === 0 }}
      onOk={() => {
        onStage(
          changed.map((record): Step => ({
            ...{ kind: 'edit', type: record.type, id: record.id, field: certain(chosen).key, value },
          })),
        );
        onClose();
      }}
      onCancel={onClose}
    >
      <div className={kitStyle.keepForm}>
        <label>
          Records
          <Select
            aria-label="Type of what is changed"
            value={type}
            showSearch={{ optionFilterProp: 'label' }}
            options={types.map((key) => ({ value: key, label: typeIn(model, key).plural }))}
            onChange={(to: string) => {
              setType(to);
              setField(null);
              setLeft(new Set());
            }}
            style={{ width: '100%' }}
          />
        </label>
        <label>
          Field
          <Select
            aria-label="Field that is changed"
            placeholder="Choose a field"
            value={field}
            showSearch={{ optionFilterProp: 'label' }}
            options={fields.map(({ key, name }) => ({ value: key, label: name }))}
            onChange={(to: string) => {
              setField(to);
              setValue(null);
            }}
            style={{ width: '100%' }}
          />
        </label>
        {chosen ? (
          <ValueInput type={chosen.type} value={value} onChange={setValue} label={`${chosen.name} of all`} />
        ) : null}
        <fieldset className={clsx(kitStyle.keepExpected, style.changeMany)}>
          <legend>{`Which ${type ? typeIn(model, type).plural : 'records'}`}</legend>
          {own.map(({ id, values }) => (
            <Checkbox key={id} checked={!left.has(id)} onChange={() => toggle(id)}>
              {String(values[typeIn(model, certain(type)).title] ?? id)}
            </Checkbox>
          ))}
        </fieldset>
      </div>
    </Dialog>
  );
}
