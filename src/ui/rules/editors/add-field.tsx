'use client';

import type { Field, Model } from '@/core/model';
import { typeIn } from '@/core/model';
import { KIND_NAMES } from '@/core/values';
import type { AssignedValue } from '@/core/rules';
import type { Choice } from '@/ui/expression/choices';
import { MenuPart } from '@/ui/expression/part';
import { fieldValue } from '@/ui/rules/drafts/cascade-draft';
import { useNewField } from '@/ui/rules/fields/new-field';

interface AddFieldProps {
  readonly model: Model;
  /** The types of the record whose values are taken and of that which takes them. */
  readonly source: string;
  readonly recipient: string;
  readonly label: string;
  readonly text: string | null;
  readonly hint: string;
  readonly isWrong?: boolean;
  readonly choices: readonly Choice[];
  readonly nothing: string;
  readonly onChoose: (field: string) => void;
  /** A field was made for what it takes. */
  readonly onMade: (field: Field, value: AssignedValue) => void;
}

const FOR = 'for ';

/** Adds a field that takes a value: one that is there, or a new one of the kind of what it takes. */
export function AddField({ model, source, recipient, onMade, onChoose, choices, ...part }: AddFieldProps) {
  const { ask, dialog } = useNewField(model);
  const [from, to] = [typeIn(model, source), typeIn(model, recipient)];
  const likes = from.fields.filter(({ type: { kind } }) => kind !== 'serial' && kind !== 'link');
  const choose = (key: string) => {
    const like = likes.find((field) => FOR + field.key === key);
    if (!like) onChoose(key);
    else
      ask({
        type: to,
        begins: { name: like.name, type: like.type },
        onMade: (field) => onMade(field, fieldValue(like.key, [])),
      });
  };
  const made: Choice = {
    ...{ key: FOR, name: `a new field for the ${from.name}’s …`, isAside: true },
    children: likes.map(({ key, name, type }) => ({ key: FOR + key, name, note: KIND_NAMES[type.kind] })),
  };
  return (
    <>
      <MenuPart {...part} choices={[...choices, ...(likes.length > 0 ? [made] : [])]} onChoose={choose} />
      {dialog}
    </>
  );
}
