'use client';

import { type Model, typeIn } from '@/core/model';
import { type FamilyData, type FamilyDrift, familyByHand } from '@/core/verify';
import { type SampleFamilyView } from '@/core/api';
import { useQuery } from '@tanstack/react-query';
import { Button, Dropdown, Input, type MenuProps, Modal, Select } from 'antd';
import { useState } from 'react';
import { v7 as newId } from 'uuid';
import { callApi } from '@/ui/api/client';
import { useFamilies, useInvalidate } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import { useTask } from '@/ui/kit/use-task';
import { when } from '@/ui/kit/values/when';
import { usePerson } from '@/ui/api/person';
import { NameInput } from '@/ui/kit/name-input';
import '@/ui/bench/bench.css';

interface FamiliesProps {
  readonly model: Model;
  readonly type: string;
  /** The record whose family is on the bench. */
  readonly root: { readonly type: string; readonly id: string } | null;
  /** The kept family that is open. */
  readonly kept: string | null;
  readonly onOpen: (family: SampleFamilyView | null) => void;
}

type Open = 'keep' | 'each' | 'hand' | 'remove' | null;

/** Sample families that are kept: opened, made of what is on the bench, one for each option, or by hand, and removed. */
export function Families({ model, type, root, kept, onOpen }: FamiliesProps) {
  const { data } = useFamilies();
  const [open, setOpen] = useState<Open>(null);
  const families = data?.families ?? [];
  const current = families.find(({ id }) => id === kept) ?? null;
  const choices = typeIn(model, type).fields.filter((field) => field.type.kind === 'choice');
  const items: MenuProps['items'] = [
    ...(families.length > 0
      ? [
          {
            type: 'group' as const,
            label: 'Kept families',
            children: families.map(({ id, name, members }) => ({
              key: `open ${id}`,
              label: `${name} (${members})`,
            })),
          },
          { type: 'divider' as const },
        ]
      : []),
    ...(current ? [{ key: 'data', label: 'The data as it is now' }] : []),
    ...(root && !current ? [{ key: 'keep', label: 'Keep this family …' }] : []),
    ...(choices.length > 0 ? [{ key: 'each', label: 'Keep one for each …' }] : []),
    { key: 'hand', label: 'Write one by hand …' },
    ...(current ? [{ key: 'remove', label: `Remove “${current.name}” …`, danger: true }] : []),
  ];
  const act = (key: string) => {
    if (key === 'data') onOpen(null);
    else if (key.startsWith('open ')) onOpen(families.find(({ id }) => id === key.slice(5)) ?? null);
    else setOpen(key as Open);
  };
  const close = () => setOpen(null);
  return (
    <>
      <Dropdown trigger={['click']} menu={{ items, onClick: ({ key }) => act(key) }}>
        <Button>{current ? `Kept: ${current.name}` : 'Families'}</Button>
      </Dropdown>
      {open === 'keep' && root ? <KeepDialog {...{ model, root, onOpen }} onClose={close} /> : null}
      {open === 'each' ? <EachDialog {...{ model, type }} onClose={close} /> : null}
      {open === 'hand' ? <HandDialog {...{ model, type, onOpen }} onClose={close} /> : null}
      {open === 'remove' && current ? (
        <RemoveDialog
          family={current}
          onClose={close}
          onGone={() => {
            close();
            onOpen(null);
          }}
        />
      ) : null}
    </>
  );
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
        families.length === 1 ? `“${families[0]!.name}” is kept.` : `${families.length} families are kept.`,
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
    const at = level.shift()!;
    if (seen.has(at)) continue;
    seen.add(at);
    for (const { type: child, link, field } of model.linksTo(at)) {
      found.set(`${child}.${link}`, `${field.otherEnd} of ${typeIn(model, at).name}`);
      level.push(child);
    }
  }
  return [...found].map(([key, name]) => ({ key, name }));
}

function KeepDialog({
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
    <Modal
      open
      title="Keep this family"
      okText="Keep it"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '', loading: isBusy }}
      onOk={() => void keep({ name, note, root, links: followed })}
      onCancel={onClose}
    >
      <p>A copy of the records as they are now. Later edits of the data don’t change it.</p>
      <div className="keep-form">
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
    </Modal>
  );
}

function EachDialog({
  model,
  type,
  onClose,
}: Pick<FamiliesProps, 'model' | 'type'> & { onClose: () => void }) {
  const { name: typeName, plural, fields } = typeIn(model, type);
  const choices = fields.filter((field) => field.type.kind === 'choice');
  const selections = (model.selections ?? []).filter((selection) => selection.type === type);
  const [name, setName] = useState(typeName);
  const [field, setField] = useState(choices[0]!.key);
  const [selection, setSelection] = useState<string | null>(null);
  const { keep, isBusy, error } = useKeeping(onClose);
  return (
    <Modal
      open
      title="Keep one family for each option"
      okText="Keep them"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '', loading: isBusy }}
      onOk={() => void keep({ name, type, field, ...(selection ? { selection } : {}) })}
      onCancel={onClose}
    >
      <div className="keep-form">
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
    </Modal>
  );
}

function HandDialog({
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
    <Modal
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
    </Modal>
  );
}

function RemoveDialog({
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
    <Modal
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
    </Modal>
  );
}

/** Keeps what is on the bench, with its staged edits, as a family of its own. */
export function KeepAsItStands({
  family,
  onOpen,
  onClose,
}: {
  /** Put together only when it is kept. */
  family: () => FamilyData;
  onOpen: (family: SampleFamilyView) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState('');
  const { keep, isBusy, error } = useKeeping(([made]) => {
    onClose();
    if (made) onOpen(made);
  });
  return (
    <Modal
      open
      title="Keep the family as it stands"
      okText="Keep it"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '', loading: isBusy }}
      onOk={() => void keep({ name, data: family() })}
      onCancel={onClose}
    >
      <p>
        With everything that was changed here and what followed from it, as a family of its own. The data
        stays as it is.
      </p>
      <NameInput value={name} onChange={setName} />
      <ProblemNotice error={error} />
    </Modal>
  );
}

const MOST_SHOWN = 12;

/** When and by whom a kept family was made, and what of it is otherwise in the data by now. */
export function FamilyNote({ model, family }: { model: Model; family: SampleFamilyView }) {
  const { data, error } = useQuery({
    queryKey: ['families', family.id, 'differences'],
    queryFn: () => callApi<FamilyDrift>(`/sample-families/${family.id}/differences`),
  });
  const [isOpen, setOpen] = useState(false);
  const number = data ? data.changed.length + data.gone.length + data.added.length : 0;
  const lines = data
    ? [
        ...data.changed.map(({ title, fields }) => `${title}: ${fields.join(', ')} changed since`),
        ...data.gone.map(({ title }) => `${title}: not in this family any more`),
        ...data.added.map(({ title, type }) => `${title}: a new ${typeIn(model, type).name.toLowerCase()}`),
      ]
    : [];
  return (
    <div className="family-note">
      Kept {when(family.madeAt)}
      {family.person ? ` by ${family.person}` : ''}. {family.note}{' '}
      {error ? <ProblemNotice error={error} /> : null}
      {data && number === 0 ? 'The data is still the same.' : null}
      {number > 0 ? (
        <>
          <button
            type="button"
            className="plain part"
            aria-expanded={isOpen}
            onClick={() => setOpen(!isOpen)}
          >
            {number.toLocaleString('en-GB')} {number === 1 ? 'record is' : 'records are'} otherwise in the
            data by now
          </button>
          {isOpen ? (
            <ul>
              {lines.slice(0, MOST_SHOWN).map((line) => (
                <li key={line}>{line}</li>
              ))}
              {lines.length > MOST_SHOWN ? <li>and {lines.length - MOST_SHOWN} more</li> : null}
            </ul>
          ) : null}
        </>
      ) : null}
    </div>
  );
}
