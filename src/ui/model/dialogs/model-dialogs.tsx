'use client';

import { NameInput } from './name-input';
import { sameData } from '@/core/values';
import { type Field, type ModelChange, type OptionList, type RecordType, keyOf } from '@/core/model';
import type { Option, Replaced } from '@/core/values';
import { useState } from 'react';
import { ChangeDialog } from './change-dialog';
import { FieldForm, typeOfKind } from './field-form';
import { type FieldDraft, Replacements, OptionRows } from './option-rows';
import { type DialogProps, finished, keyed } from './type-dialogs';
import { clsx } from 'clsx';
import modelStyle from '@/ui/model/model.module.css';

/** Adds a field or a link to a type, or changes one; one after another where nobody waits for a certain one. */
export function FieldDialog(props: FieldDialogProps) {
  const [number, setNumber] = useState(0);
  const { before, initial, onMade } = props;
  const goesOn = !before && !initial && !onMade;
  return (
    <OneFieldDialog key={number} {...props} {...(goesOn ? { onAnother: () => setNumber(number + 1) } : {})} />
  );
}

type FieldDialogProps = DialogProps & {
  type: RecordType;
  before: Field | null;
  isLink?: boolean;
  /** What a new field begins as. */
  initial?: Field;
  /** What a change of a field begins with. */
  begun?: Field;
  onMade?: (field: Field) => void;
};

function OneFieldDialog({
  model,
  type,
  before,
  isLink = false,
  initial,
  begun,
  onClose,
  onMade,
  onAnother,
}: FieldDialogProps & { onAnother?: () => void }) {
  const [draft, setDraft] = useState<FieldDraft>(() => ({
    field: begun ??
      before ??
      initial ?? {
        ...{ key: '', name: '' },
        type: isLink ? typeOfKind('link', { kind: 'text' }, model.types) : { kind: 'text' },
      },
    ...{ whereEmpty: null, replaced: {} },
  }));
  const isNamed = draft.field.name.trim() !== '';
  const key = before?.key ?? keyOf(draft.field.name, new Set(type.fields.map((field) => field.key)));
  const field = finished(draft, key, before);
  const change: ModelChange = before
    ? {
        ...{ kind: 'changeField', type: type.key, to: field, replaced: draft.replaced },
        whereEmpty: draft.whereEmpty === '' ? null : (draft.whereEmpty ?? null),
      }
    : { kind: 'addField', type: type.key, field };
  const isChanged = !before || !sameData(finished({ ...draft, field: before }, key, before), field);
  const what = draft.field.type.kind === 'link' ? 'link' : 'field';
  return (
    <ChangeDialog
      title={before ? `${before.name} of ${type.name}` : `Add a ${what} to ${type.name}`}
      changes={isNamed && isChanged ? [change] : null}
      version={model.version}
      apply={before ? 'Change the field' : `Add the ${what}`}
      done={before ? `${field.name} is changed.` : `${field.name} is added to ${type.name}.`}
      onClose={onClose}
      onDone={() => onMade?.(field)}
      {...(onAnother ? { onAnother } : {})}
    >
      <FieldForm {...{ draft, before }} onChange={setDraft} types={model.types} lists={model.lists} />
    </ChangeDialog>
  );
}

export function RemoveFieldDialog({
  model,
  type,
  field,
  onClose,
}: DialogProps & { type: RecordType; field: Field }) {
  return (
    <ChangeDialog
      title={`Remove ${field.name} of ${type.name}?`}
      changes={[{ kind: 'removeField', type: type.key, key: field.key }]}
      version={model.version}
      apply="Remove it"
      isDanger
      done={`${field.name} is removed.`}
      onClose={onClose}
    />
  );
}

/** Makes an option list that several fields can use, or changes one for all of them. */
export function ListDialog({ model, before, onClose }: DialogProps & { before: OptionList | null }) {
  const [name, setName] = useState(before?.name ?? '');
  const [options, setOptions] = useState<readonly Option[]>(before?.options ?? []);
  const [replaced, setReplaced] = useState<Replaced>({});
  const key = before?.key ?? keyOf(name, new Set(model.lists.map((list) => list.key)));
  const list: OptionList = { key, name: name.trim(), options: keyed(options, before?.options ?? []) };
  const users = model.types.flatMap((type) =>
    type.fields
      .filter(
        ({ type: of }) => before && (of.kind === 'choice' || of.kind === 'choices') && of.list === before.key,
      )
      .map((field) => `${field.name} of ${type.name}`),
  );
  const isChanged = !sameData(list, before);
  const change: ModelChange = before ? { kind: 'changeList', to: list, replaced } : { kind: 'addList', list };
  return (
    <ChangeDialog
      title={before ? `Option list ${before.name}` : 'Add an option list'}
      changes={isChanged && list.name !== '' && options.length > 0 ? [change] : null}
      version={model.version}
      apply={before ? 'Change the list' : 'Add the list'}
      done={`The list ${list.name} is ${before ? 'changed' : 'added'}.`}
      onClose={onClose}
    >
      <div className={modelStyle.modelForm}>
        <NameInput value={name} onChange={setName} />
        <label>Options</label>
        <OptionRows options={options} onChange={setOptions} />
        {before ? (
          <span className={clsx('quiet', modelStyle.wide)}>
            {users.length === 0 ? 'No field uses it yet.' : `Used by ${users.join(', ')}.`}
          </span>
        ) : null}
        <Replacements {...{ options, replaced }} had={before?.options ?? []} onChange={setReplaced} />
      </div>
    </ChangeDialog>
  );
}
