'use client';

import type { ModelChange, RecordType } from '@/core/model';
import { useState } from 'react';
import { MoveButtons } from '@/ui/kit/move-buttons';
import { ChangeDialog } from './change-dialog';
import style from './order-dialog.module.css';

/** The moves that bring fields into an order: each that stands elsewhere by then is put in its place, from the first on. */
export function movesTo(type: RecordType, wanted: readonly string[]): ModelChange[] {
  const now = type.fields.map(({ key }) => key);
  return wanted.flatMap((key, to): ModelChange[] => {
    if (now[to] === key) return [];
    now.splice(now.indexOf(key), 1);
    now.splice(to, 0, key);
    return [{ kind: 'moveField', type: type.key, key, to }];
  });
}

/** The order in which a type's fields stand everywhere: on its records' pages, in lists and in exports. */
export function OrderDialog({
  model,
  type,
  onClose,
}: {
  model: { readonly version: number };
  type: RecordType;
  onClose: () => void;
}) {
  const [fields, setFields] = useState(type.fields);
  const moves = movesTo(
    type,
    fields.map(({ key }) => key),
  );
  return (
    <ChangeDialog
      title={`Order of the fields of ${type.name}`}
      changes={moves.length > 0 ? moves : null}
      version={model.version}
      apply="Keep this order"
      done={`The fields of ${type.name} are in the new order.`}
      onClose={onClose}
    >
      <ol className={style.orderRows}>
        {fields.map((field, index) => (
          <li key={field.key}>
            <span>{field.name}</span>
            <MoveButtons {...{ index, name: field.name, items: fields }} onChange={setFields} />
          </li>
        ))}
      </ol>
    </ChangeDialog>
  );
}
