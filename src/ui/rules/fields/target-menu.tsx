'use client';

import type { Model, RecordType } from '@/core/model';
import type { ValueType } from '@/core/values';
import type { Choice } from '@/ui/expression/choices';
import { MenuPart } from '@/ui/expression/part';
import { aNewField, fitting, NEW_FIELD, useNewField } from './new-field';

interface TargetMenuProps {
  readonly model: Model;
  /** `null` while it isn't chosen. */
  readonly type: RecordType | null;
  /** What the field is called here. */
  readonly label?: string;
  /** The name that a new field begins with. */
  readonly proposed?: string;
  /** What is chosen, in words. */
  readonly text: string | null;
  readonly isWrong: boolean;
  readonly choices: readonly Choice[];
  /** What goes into it, which a new field begins with; `null` while that isn't known. */
  readonly result: ValueType | null;
  /** With the model as it is then. */
  readonly onChoose: (field: string, model: Model) => void;
}

/** The field that is kept: one of those that fit, or one that is made for it without leaving the sentence. */
export function TargetMenu(props: TargetMenuProps) {
  const { model, type, label = 'Field that is kept', proposed: name = '', result, onChoose, ...part } = props;
  const { ask, dialog } = useNewField(model);
  const choose = (key: string) => {
    if (key !== NEW_FIELD || !type) onChoose(key, model);
    else
      ask({
        type,
        begins: { name, type: fitting(result) },
        onMade: (field, within) => onChoose(field.key, within),
      });
  };
  return (
    <>
      <MenuPart
        {...part}
        label={label}
        hint="a field"
        choices={[...part.choices, ...(type ? [aNewField] : [])]}
        nothing="Choose the type of record first."
        onChoose={choose}
      />
      {dialog}
    </>
  );
}
