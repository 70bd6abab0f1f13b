'use client';

import { NameInput } from './name-input';
import { sameData, firstIn } from '@/core/values';

import {
  type Field,
  fieldIn,
  keyOf,
  type LinkPolicy,
  type Model,
  type ModelChange,
  type OpenLink,
  type RecordType,
  typeIn,
} from '@/core/model';
import { Checkbox, Input, Select } from 'antd';
import { useId, useState } from 'react';
import { ChangeDialog } from './change-dialog';
import { POLICIES } from './field-form';
import modelStyle from '@/ui/model/model.module.css';

interface DialogProps {
  readonly model: Model;
  readonly version: number;
  readonly type: RecordType;
  readonly onClose: () => void;
}

interface Draft {
  readonly name: string;
  readonly targets: readonly string[];
  readonly otherEnd: string;
  readonly policy: LinkPolicy;
  readonly isRequired: boolean;
  readonly help: string;
}

const targetOf = (model: Model, type: string, link: string): string => {
  const { type: of } = fieldIn(model, type, link);
  return of.kind === 'link' ? of.target : '';
};

/** What the form comes to: links for types that are new to it, links of types that left, and the open link over them. */
function changesOf(
  model: Model,
  type: RecordType,
  before: OpenLink | null,
  draft: Draft,
): ModelChange[] | null {
  const name = draft.name.trim();
  if (name === '' || draft.otherEnd.trim() === '' || draft.targets.length < 2) return null;
  const taken = new Set([
    ...type.fields.map(({ key }) => key),
    ...(type.openLinks ?? []).map(({ key }) => key),
  ]);
  const names = new Set(type.fields.map((field) => field.name.toLowerCase()));
  const key = before?.key ?? keyOf(name, taken);
  taken.add(key);
  const had = new Map((before?.links ?? []).map((link) => [targetOf(model, type.key, link), link]));
  const settings = { otherEnd: draft.otherEnd.trim(), whenParentGoes: draft.policy };
  const changes: ModelChange[] = [];
  const links = draft.targets.map((target) => {
    const known = had.get(target);
    if (known !== undefined) {
      const field = fieldIn(model, type.key, known);
      const to: Field = { ...field, ...settings };
      if (!sameData(field, to)) changes.push({ kind: 'changeField', type: type.key, to });
      return known;
    }
    const parent = typeIn(model, target).name;
    const called = names.has(parent.toLowerCase()) ? `${name}: ${parent}` : parent;
    const link = keyOf(`${key} ${target}`, taken);
    taken.add(link);
    const field: Field = { key: link, name: called, type: { kind: 'link', target }, ...settings };
    changes.push({ kind: 'addField', type: type.key, field });
    return link;
  });
  const help = draft.help.trim();
  const to: OpenLink = {
    ...{ key, name, links },
    ...(draft.isRequired ? { required: true } : {}),
    ...(help === '' ? {} : { help }),
  };
  if (!before) changes.push({ kind: 'addOpenLink', type: type.key, openLink: to });
  else if (!sameData(before, to)) changes.push({ kind: 'changeOpenLink', type: type.key, to });
  for (const [target, link] of had)
    if (!draft.targets.includes(target)) changes.push({ kind: 'removeField', type: type.key, key: link });
  return changes.length > 0 ? changes : null;
}

/** Makes a link whose parent may be of one of several types, or changes one. */
export function OpenLinkDialog({
  model,
  version,
  type,
  before,
  onClose,
}: DialogProps & { before: OpenLink | null }) {
  const ids = useId();
  const first = before ? fieldIn(model, type.key, firstIn(before.links)) : null;
  const [draft, setDraft] = useState<Draft>({
    ...{ name: before?.name ?? '', otherEnd: first?.otherEnd ?? type.plural, help: before?.help ?? '' },
    targets: before?.links.map((link) => targetOf(model, type.key, link)) ?? [],
    ...{ policy: first?.whenParentGoes ?? 'refuse', isRequired: before?.required ?? false },
  });
  const put = (change: Partial<Draft>) => setDraft({ ...draft, ...change });
  const name = draft.name.trim();
  return (
    <ChangeDialog
      title={before ? `${before.name} of ${type.name}` : `Add an open link to ${type.name}`}
      changes={changesOf(model, type, before, draft)}
      version={version}
      apply={before ? 'Change the open link' : 'Add the open link'}
      done={before ? `${name} is changed.` : `${name} is added to ${type.name}.`}
      onClose={onClose}
    >
      <p className="quiet">
        Each {type.name.toLowerCase()} hangs under one record, which may be of one of several types. It stands
        for one link to each of them; filling one empties the others.
      </p>
      <div className={modelStyle.modelForm}>
        <NameInput value={draft.name} placeholder="such as Concerns" onChange={(name) => put({ name })} />
        <label htmlFor={`${ids}-types`}>Names records of</label>
        <Select
          id={`${ids}-types`}
          mode="multiple"
          value={[...draft.targets]}
          placeholder="two types or more"
          showSearch={{ optionFilterProp: 'label' }}
          options={model.types.map(({ key, name: label }) => ({ value: key, label }))}
          onChange={(targets: string[]) => put({ targets })}
        />
        <label htmlFor={`${ids}-other`}>Name of the other end</label>
        <Input
          id={`${ids}-other`}
          maxLength={80}
          value={draft.otherEnd}
          onChange={(event) => put({ otherEnd: event.target.value })}
        />
        <label htmlFor={`${ids}-policy`}>When the parent is deleted</label>
        <Select
          id={`${ids}-policy`}
          value={draft.policy}
          options={[...POLICIES]}
          onChange={(policy: LinkPolicy) => put({ policy })}
        />
        <span />
        <Checkbox checked={draft.isRequired} onChange={(event) => put({ isRequired: event.target.checked })}>
          Required
        </Checkbox>
        <label htmlFor={`${ids}-help`}>Help</label>
        <Input
          id={`${ids}-help`}
          maxLength={500}
          value={draft.help}
          onChange={(event) => put({ help: event.target.value })}
        />
      </div>
    </ChangeDialog>
  );
}

/** Takes an open link away; its links stay as ordinary ones. */
export function RemoveOpenLinkDialog({
  version,
  type,
  open,
  onClose,
}: Omit<DialogProps, 'model'> & { open: OpenLink }) {
  return (
    <ChangeDialog
      title={`Make ${open.name} of ${type.name} ordinary links?`}
      changes={[{ kind: 'removeOpenLink', type: type.key, key: open.key }]}
      version={version}
      apply="Make them ordinary links"
      done={`${open.name} is no open link any more.`}
      onClose={onClose}
    >
      <p className="quiet">
        Its links stay with all they name, and a record may fill several of them from then on. To remove them
        too, remove each link afterwards.
      </p>
    </ChangeDialog>
  );
}
