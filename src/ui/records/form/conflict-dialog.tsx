'use client';

import { type Field, type Model, typeIn } from '@/core/model';
import type { WireValue } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import type { RecordView } from '@/core/api';
import { Radio } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { sameWire } from '@/ui/kit/values/same-wire';
import { wordsFor } from '@/ui/records/words';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './conflict-dialog.module.css';

type Values = Readonly<Record<string, WireValue>>;

export interface ConflictProps {
  readonly model: Model;
  /** The record as it was when it was opened, what was entered since, and the record as it is now. */
  readonly base: WireRecord;
  readonly entered: Values;
  readonly conflict: RecordView;
  readonly names: Readonly<Record<string, string>>;
  readonly onChosen: (entered: Values) => void;
  readonly onClose: () => void;
}

/** Somebody else saved the same record first: both versions, field by field, to choose from. Nothing that was typed is lost. */
export function ConflictDialog(props: ConflictProps) {
  const { model, base, entered, conflict, onChosen, onClose } = props;
  const { record } = conflict;
  const { fields } = typeIn(model, base.type);
  const theirs = fields.filter(({ key }) => !sameWire(base.values[key], record.values[key]));
  const both = theirs.filter(({ key }) => key in entered && !sameWire(entered[key], record.values[key]));
  const [mine, setMine] = useState<ReadonlySet<string>>(new Set(both.map(({ key }) => key)));
  const choose = (key: string, isMine: boolean) => {
    const next = new Set(mine);
    if (isMine) next.add(key);
    else next.delete(key);
    setMine(next);
  };
  const confirm = () => {
    const given = new Set(both.map(({ key }) => key).filter((key) => !mine.has(key)));
    onChosen(Object.fromEntries(Object.entries(entered).filter(([key]) => !given.has(key))));
  };
  return (
    <Dialog
      open
      width={760}
      title="Somebody else has saved this record meanwhile"
      okText="Take these, then look and save"
      cancelText="Back to what I typed"
      onOk={confirm}
      onCancel={onClose}
    >
      <p>
        Nothing of yours is lost. What only one of you changed goes together; where both did, choose what is
        to stand.
      </p>
      <table className={clsx(kitStyle.members, style.conflict)}>
        <thead>
          <tr>
            <th scope="col">Field</th>
            <th scope="col">Was</th>
            <th scope="col">Saved by the other</th>
            <th scope="col">Yours</th>
          </tr>
        </thead>
        <tbody>
          {fields
            .filter((field) => theirs.includes(field) || field.key in entered)
            .map((field) => (
              <ConflictRow
                key={field.key}
                {...props}
                field={field}
                isTheirs={theirs.includes(field)}
                isBoth={both.includes(field)}
                isMine={mine.has(field.key)}
                onChoose={(isMine) => choose(field.key, isMine)}
              />
            ))}
        </tbody>
      </table>
    </Dialog>
  );
}

interface RowProps extends ConflictProps {
  readonly field: Field;
  readonly isTheirs: boolean;
  readonly isBoth: boolean;
  readonly isMine: boolean;
  readonly onChoose: (isMine: boolean) => void;
}

function ConflictRow({
  field,
  base,
  entered,
  conflict,
  names,
  isTheirs,
  isBoth,
  isMine,
  onChoose,
}: RowProps) {
  const words = (value: WireValue | undefined) => wordsFor(field, value, { ...names, ...conflict.names });
  const [was, now, own] = [base.values[field.key], conflict.record.values[field.key], entered[field.key]];
  if (!isBoth) {
    return (
      <tr>
        <th scope="row">{field.name}</th>
        <td>{words(was)}</td>
        <td className={isTheirs ? kitStyle.entered : 'quiet'}>{isTheirs ? words(now) : 'as it was'}</td>
        <td className={field.key in entered ? kitStyle.entered : 'quiet'}>
          {field.key in entered ? words(own) : 'as it was'}
        </td>
      </tr>
    );
  }
  return (
    <tr>
      <th scope="row">{field.name}</th>
      <td>{words(was)}</td>
      <td>
        <Radio
          checked={!isMine}
          onChange={() => onChoose(false)}
          aria-label={`${field.name}: take the other’s`}
        >
          {words(now)}
        </Radio>
      </td>
      <td>
        <Radio checked={isMine} onChange={() => onChoose(true)} aria-label={`${field.name}: keep mine`}>
          {words(own)}
        </Radio>
      </td>
    </tr>
  );
}
