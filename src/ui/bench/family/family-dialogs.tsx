'use client';

import { certain, firstIn } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import { familyByHand } from '@/core/verify';
import { type SampleFamilyView } from '@/core/api';
import { Input, Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { v7 as newId } from 'uuid';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import { NameInput } from '@/ui/kit/name-input';
import kitStyle from '@/ui/kit/kit.module.css';

export interface FamiliesProps {
  readonly model: Model;
  readonly type: string;
  /** The record whose family is on the bench. */
  readonly root: { readonly type: string; readonly id: string } | null;
  /** The kept family that is open. */
  readonly kept: string | null;
  readonly onOpen: (family: SampleFamilyView | null) => void;
}

/** Keeps families, and tells what was refused. */
export function useKeeping(onDone: (families: readonly SampleFamilyView[]) => void) {
  const person = usePerson();
  const forget = useInvalidate();
  const { run, isBusy, error } = useTask();
  const keep = (body: unknown) =>
    run(
      async () => {
        const call = { method: 'POST', body, person: person.id } as const;
        const made = await callApi<{ families: SampleFamilyView[] }>('/sample-families', call);
        await forget.families();
        return made.families;
      },
      (families) =>
        families.length === 1
          ? `“${firstIn(families).name}” is kept.`
          : `${families.length} families are kept.`,
      onDone,
    );
  return { keep, isBusy, error };
}

/** Every way down from a type, level by level; each link once. */
function linksBeneath(model: Model, type: string): { key: string; name: string }[] {
  const found = new Map<string, string>();
  const seen = new Set<string>();
  const level = [type];
  while (level.length > 0) {
    const at = certain(level.shift());
    if (seen.has(at)) continue;
    seen.add(at);
    for (const { type: child, link, field } of model.linksTo(at)) {
      found.set(`${child}.${link}`, `${field.otherEnd} of ${typeIn(model, at).name}`);
      level.push(child);
    }
  }
  return [...found].map(([key, name]) => ({ key, name }));
}

export function KeepDialog({
  model,
  root,
  onOpen,
  onClose,
}: Pick<FamiliesProps, 'model' | 'onOpen'> & {
  root: { readonly type: string; readonly id: string };
  onClose: () => void;
}) {
  const links = linksBeneath(model, root.type);
  const [name, setName] = useState('');
  const [note, setNote] = useState('');
  const [followed, setFollowed] = useState<readonly string[]>(() => links.map(({ key }) => key));
  const { keep, isBusy, error } = useKeeping((families) => {
    onClose();
    onOpen(families[0] ?? null);
  });
  return (
    <Dialog
      open
      title="Keep this family"
      okText="Keep it"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '', loading: isBusy }}
      onOk={() => void keep({ name, note, root, links: followed })}
      onCancel={onClose}
    >
      <p>A copy of the records as they are now. Later edits of the data don’t change it.</p>
      <div className={kitStyle.keepForm}>
        <NameInput value={name} onChange={setName} />
        <Input.TextArea
          aria-label="What it is for"
          placeholder="What it is for"
          maxLength={2_000}
          autoSize={{ minRows: 2 }}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        <label>
          Goes down over
          <Select
            aria-label="Links that are followed"
            mode="multiple"
            showSearch={{ optionFilterProp: 'label' }}
            value={followed as string[]}
            options={links.map(({ key, name: label }) => ({ value: key, label }))}
            onChange={setFollowed}
            style={{ width: '100%' }}
          />
        </label>
      </div>
      <ProblemNotice error={error} />
    </Dialog>
  );
}

export function EachDialog({
  model,
  type,
  onClose,
}: Pick<FamiliesProps, 'model' | 'type'> & { onClose: () => void }) {
  const { name: typeName, plural, fields } = typeIn(model, type);
  const choices = fields.filter((field) => field.type.kind === 'choice');
  const selections = (model.selections ?? []).filter((selection) => selection.type === type);
  const [name, setName] = useState(typeName);
  const [field, setField] = useState(firstIn(choices).key);
  const [selection, setSelection] = useState<string | null>(null);
  const { keep, isBusy, error } = useKeeping(onClose);
  return (
    <Dialog
      open
      title="Keep one family for each option"
      okText="Keep them"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '', loading: isBusy }}
      onOk={() => void keep({ name, type, field, ...(selection ? { selection } : {}) })}
      onCancel={onClose}
    >
      <div className={kitStyle.keepForm}>
        <label>
          One {typeName.toLowerCase()} for each
          <Select
            aria-label="Field"
            value={field}
            options={choices.map((one) => ({ value: one.key, label: one.name }))}
            onChange={setField}
            style={{ width: '100%' }}
          />
        </label>
        {selections.length > 0 ? (
          <label>
            Among
            <Select
              aria-label="Selection"
              allowClear
              placeholder={`all ${plural.toLowerCase()}`}
              value={selection}
              options={selections.map((one) => ({ value: one.key, label: one.name }))}
              onChange={(key: string | undefined) => setSelection(key ?? null)}
              style={{ width: '100%' }}
            />
          </label>
        ) : null}
        <label>
          Their names begin with
          <Input value={name} maxLength={60} onChange={(event) => setName(event.target.value)} />
        </label>
      </div>
      <ProblemNotice error={error} />
    </Dialog>
  );
}

export function HandDialog({
  model,
  type,
  onOpen,
  onClose,
}: Pick<FamiliesProps, 'model' | 'type' | 'onOpen'> & { onClose: () => void }) {
  const { name: typeName } = typeIn(model, type);
  const [name, setName] = useState('');
  const { keep, isBusy, error } = useKeeping((families) => {
    onClose();
    onOpen(families[0] ?? null);
  });
  return (
    <Dialog
      open
      title="Write a family by hand"
      okText="Begin"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '', loading: isBusy }}
      onOk={() => void keep({ name, data: familyByHand(model, type, newId(), `${typeName} by hand`) })}
      onCancel={onClose}
    >
      <p>
        It begins with one {typeName.toLowerCase()}. Add what hangs under it on the bench, then keep it as it
        stands.
      </p>
      <NameInput value={name} onChange={setName} />
      <ProblemNotice error={error} />
    </Dialog>
  );
}

export function RemoveDialog({
  family,
  onClose,
  onGone,
}: {
  family: SampleFamilyView;
  onClose: () => void;
  onGone: () => void;
}) {
  const person = usePerson();
  const forget = useInvalidate();
  const [error, setError] = useState<Error | null>(null);
  const remove = () =>
    callApi(`/sample-families/${family.id}`, { method: 'DELETE', person: person.id })
      .then(() => forget.families())
      .then(onGone, (failure: unknown) => setError(failure as Error));
  return (
    <Dialog
      open
      title={`Remove the family “${family.name}”?`}
      okText="Remove it"
      okButtonProps={{ danger: true }}
      cancelText="Not now"
      onOk={() => void remove()}
      onCancel={onClose}
    >
      <p>The copy goes; no record of the data is touched.</p>
      <ProblemNotice error={error} />
    </Dialog>
  );
}
