'use client';

import { type Field, type Model, readModel, type RecordType } from '@/core/model';
import type { ValueType } from '@/core/values';
import { useState } from 'react';
import type { Choice } from '@/ui/expression/choices';
import { MenuPart } from '@/ui/expression/part';
import { NewTargetDialog } from './new-target';

/** The choice that makes a field; no key of a field has a blank. */
const NEW_FIELD = 'new field';

/** The model as it is once a field is made: what is read anew comes a moment later. */
const withField = (model: Model, type: string, field: Field): Model =>
  readModel(
    {
      ...model,
      types: model.types.map((one) => (one.key === type ? { ...one, fields: [...one.fields, field] } : one)),
    },
    model.settledDay,
  );

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
  const {
    model,
    type,
    text,
    isWrong,
    choices,
    result,
    label = 'Field that is kept',
    proposed,
    onChoose,
  } = props;
  const [isMaking, setMaking] = useState(false);
  return (
    <>
      <MenuPart
        {...{ text, isWrong, label }}
        hint="a field"
        choices={[...choices, ...(type ? [{ key: NEW_FIELD, name: 'a new field …', isAside: true }] : [])]}
        nothing="Choose the type of record first."
        onChoose={(key) => (key === NEW_FIELD ? setMaking(true) : onChoose(key, model))}
      />
      {isMaking && type ? (
        <NewTargetDialog
          {...{ type, result }}
          name={proposed ?? ''}
          onClose={() => setMaking(false)}
          onMade={(field) => onChoose(field.key, withField(model, type.key, field))}
        />
      ) : null}
    </>
  );
}
