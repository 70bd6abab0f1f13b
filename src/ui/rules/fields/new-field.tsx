'use client';

import { freeName } from '@/core/free-name';
import { type Field, fieldIn, type Model, readModel, type RecordType } from '@/core/model';
import type { ValueType } from '@/core/values';
import { type ReactNode, useState } from 'react';
import { useModelView } from '@/ui/api/queries';
import type { Choice } from '@/ui/expression/choices';
import { FieldDialog } from '@/ui/model/dialogs/model-dialogs';

/** The choice that makes a field; no key of a field has a blank. */
export const NEW_FIELD = 'new field';

export const aNewField: Choice = { key: NEW_FIELD, name: 'a new field …', isAside: true };
export const aNewLink: Choice = { key: NEW_FIELD, name: 'a new link …', isAside: true };

/** Places of a new field for a result that has more than anybody would want to read. */
const MOST_PLACES = 2;

/** A field that a result goes into as it is; averages are cut to what a person reads. */
export function fitting(result: ValueType | null): ValueType {
  if (!result) return { kind: 'number', scale: 0 };
  return result.kind === 'number' && result.scale > MOST_PLACES ? { ...result, scale: MOST_PLACES } : result;
}

/** The model as it is once a field is made: what is read anew comes a moment later. */
const withField = (model: Model, type: string, field: Field): Model =>
  readModel(
    {
      ...model,
      types: model.types.map((one) => (one.key === type ? { ...one, fields: [...one.fields, field] } : one)),
    },
    model.settledDay,
  );

/** What a new link of a type to another begins with: named by that, its other end by what names it. */
export function linkTo(model: Model, type: RecordType, named: RecordType): Asked['begins'] {
  const ends = model.linksTo(named.key).map(({ type: child, link }) => fieldIn(model, child, link).otherEnd);
  const otherEnd = freeName(
    (number) => (number === 1 ? type.plural : `${type.plural} ${number}`),
    (name) => ends.includes(name),
  );
  return { name: named.name, type: { kind: 'link', target: named.key }, otherEnd };
}

interface Asked {
  readonly type: RecordType;
  /** What it begins with: a kind that fits what goes into it, and maybe a name. */
  readonly begins: Pick<Field, 'name' | 'type' | 'otherEnd'>;
  /** With the model as it is then. */
  readonly onMade: (field: Field, model: Model) => void;
}

/** Makes a field for a part of a sentence, without leaving it: `ask` opens its dialog, which stands wherever `dialog` is put. */
export function useNewField(model: Model): {
  readonly ask: (asked: Asked) => void;
  readonly dialog: ReactNode;
} {
  const [asked, setAsked] = useState<Asked | null>(null);
  return {
    ask: setAsked,
    dialog: asked ? <NewFieldDialog {...{ model, asked }} onClose={() => setAsked(null)} /> : null,
  };
}

interface NewFieldDialogProps {
  readonly model: Model;
  readonly asked: Asked;
  readonly onClose: () => void;
}

function NewFieldDialog({ model, asked: { type, begins, onMade }, onClose }: NewFieldDialogProps) {
  const { data } = useModelView();
  if (!data) return null;
  return (
    <FieldDialog
      model={data}
      type={type}
      before={null}
      isLink={begins.type.kind === 'link'}
      initial={{ key: '', ...begins }}
      onClose={onClose}
      onMade={(field) => onMade(field, withField(model, type.key, field))}
    />
  );
}
