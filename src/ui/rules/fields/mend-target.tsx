'use client';

import type { Field, RecordType } from '@/core/model';
import { conversion, type ValueType } from '@/core/values';
import { Button } from 'antd';
import { useState } from 'react';
import { useModelView } from '@/ui/api/queries';
import { FieldDialog } from '@/ui/model/dialogs/model-dialogs';

/** Whether a field would take a result, if it only had its unit or currency. */
export const isMended = (field: ValueType, result: ValueType): boolean =>
  conversion(result, field) === null &&
  field.kind === result.kind &&
  (field.kind === 'number' || field.kind === 'money');

/** Whether a table of results brings a result into a field of another kind: as a count into a choice. */
export const isMapped = (field: ValueType, result: ValueType): boolean =>
  conversion(result, field) === null && field.kind !== result.kind && field.kind !== 'link';

interface MendTargetProps {
  readonly type: RecordType;
  readonly target: Field;
  readonly result: ValueType;
}

/** A press that gives the chosen field the unit or the currency of the result; what that does to what is stored is shown first. */
export function MendTarget({ type, target, result }: MendTargetProps) {
  const { data } = useModelView();
  const [isOpen, setOpen] = useState(false);
  const mended = mendedType(target.type, result);
  return (
    <>
      {' '}
      <Button size="small" onClick={() => setOpen(true)}>
        Give “{target.name}” {measureWords(mended)} …
      </Button>
      {isOpen && data ? (
        <FieldDialog
          model={data}
          type={type}
          before={target}
          begun={{ ...target, type: mended }}
          onClose={() => setOpen(false)}
        />
      ) : null}
    </>
  );
}

function mendedType(field: ValueType, result: ValueType): ValueType {
  if (field.kind === 'money' && result.kind === 'money') return { ...field, currency: result.currency };
  if (field.kind !== 'number' || result.kind !== 'number') return field;
  const { unit: _otherwise, ...plain } = field;
  return result.unit === undefined ? plain : { ...plain, unit: result.unit };
}

const measureWords = (type: ValueType): string =>
  type.kind === 'money'
    ? `the currency ${type.currency}`
    : type.kind === 'number' && type.unit
      ? `the unit ${type.unit}`
      : 'no unit';
