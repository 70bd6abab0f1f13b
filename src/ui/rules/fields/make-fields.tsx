'use client';

import { freeName } from '@/core/free-name';
import { type Field, keyOf, type ModelChange, type RecordType } from '@/core/model';
import type { ValueType } from '@/core/values';
import { Button, Input } from 'antd';
import { useId, useState } from 'react';
import { useModelView } from '@/ui/api/queries';
import { ChangeDialog } from '@/ui/model/dialogs/change-dialog';
import modelStyle from '@/ui/model/model.module.css';

interface MakeFieldsProps {
  readonly type: RecordType;
  /** What they begin to be called. */
  readonly names: readonly string[];
  /** Of what kind they are: that of the field that the rule keeps already. */
  readonly kind: ValueType;
  /** With their keys, in the order of the names. */
  readonly onMade: (keys: readonly string[]) => void;
}

/** A press that makes a field for each option that has none yet, all of them at once. */
export function MakeFields(props: MakeFieldsProps) {
  const [isOpen, setOpen] = useState(false);
  const count = props.names.length;
  return (
    <>
      <Button size="small" onClick={() => setOpen(true)}>
        Make {count === 1 ? 'the field' : `the ${count} fields`} …
      </Button>
      {isOpen ? <MakeFieldsDialog {...props} onClose={() => setOpen(false)} /> : null}
    </>
  );
}

function MakeFieldsDialog({ type, names, kind, onMade, onClose }: MakeFieldsProps & { onClose: () => void }) {
  const { data } = useModelView();
  const [written, setWritten] = useState(names);
  const id = useId();
  const fields = fieldsNamed(type, written, kind);
  const isNamed = written.every((name) => name.trim() !== '');
  if (!data) return null;
  return (
    <ChangeDialog
      title={`Add ${fields.length === 1 ? 'a field' : `${fields.length} fields`} to ${type.name}`}
      changes={
        isNamed ? fields.map((field): ModelChange => ({ kind: 'addField', type: type.key, field })) : null
      }
      version={data.version}
      apply={fields.length === 1 ? 'Add the field' : 'Add the fields'}
      done={`${fields.map(({ name }) => name).join(', ')}: added to ${type.name}.`}
      onClose={onClose}
      onDone={() => onMade(fields.map(({ key }) => key))}
    >
      <div className={modelStyle.modelForm}>
        {written.map((name, at) => (
          <NameLine
            key={at}
            id={`${id}${at}`}
            label={names[at] ?? ''}
            value={name}
            isFirst={at === 0}
            onChange={(next) => setWritten(written.map((one, index) => (index === at ? next : one)))}
          />
        ))}
      </div>
    </ChangeDialog>
  );
}

interface NameLineProps {
  readonly id: string;
  readonly label: string;
  readonly value: string;
  readonly isFirst: boolean;
  readonly onChange: (name: string) => void;
}

const NameLine = ({ id, label, value, isFirst, onChange }: NameLineProps) => (
  <>
    <label htmlFor={id}>{label}</label>
    <Input
      {...{ id, value }}
      autoFocus={isFirst}
      maxLength={80}
      onChange={(event) => onChange(event.target.value)}
    />
  </>
);

/** Fields of these names with keys that nothing of the type has. */
function fieldsNamed(type: RecordType, names: readonly string[], kind: ValueType): Field[] {
  const taken = new Set(type.fields.map(({ key }) => key));
  return names.map((written) => {
    const key = keyOf(written, taken);
    taken.add(key);
    return { key, name: written.trim(), type: kind };
  });
}

/** What a field of another option is called: as that of the first is, with the other's name in its place, or before it. */
export function nameForOption(field: string, first: string, other: string, taken: readonly string[]): string {
  const at = field.toLowerCase().indexOf(first.toLowerCase());
  const put = at > 0 ? other.charAt(0).toLowerCase() + other.slice(1) : other;
  const name = at < 0 ? `${field}: ${other}` : field.slice(0, at) + put + field.slice(at + first.length);
  return freeName(
    (number) => (number === 1 ? name : `${name} ${number}`),
    (one) => taken.includes(one),
  );
}
