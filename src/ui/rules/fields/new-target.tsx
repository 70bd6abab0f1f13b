'use client';

import type { Field, RecordType } from '@/core/model';
import type { ValueType } from '@/core/values';
import { useModelView } from '@/ui/api/queries';
import { FieldDialog } from '@/ui/model/dialogs/model-dialogs';

/** Places of a new field for a result that has more than anybody would want to read. */
const MOST_PLACES = 2;

/** A field that a result goes into as it is; averages are cut to what a person reads. */
function fitting(result: ValueType | null): ValueType {
  if (!result) return { kind: 'number', scale: 0 };
  return result.kind === 'number' && result.scale > MOST_PLACES ? { ...result, scale: MOST_PLACES } : result;
}

/** Makes the field that a rule is to keep, without leaving its sentence; a kind that fits the result stands there already. */
export function NewTargetDialog({
  type,
  result,
  name = '',
  onClose,
  onMade,
}: {
  type: RecordType;
  result: ValueType | null;
  /** The name that it begins with. */
  name?: string;
  onClose: () => void;
  onMade: (field: Field) => void;
}) {
  const { data } = useModelView();
  if (!data) return null;
  return (
    <FieldDialog
      model={data}
      type={type}
      before={null}
      initial={{ key: '', name, type: fitting(result) }}
      onClose={onClose}
      onMade={onMade}
    />
  );
}
