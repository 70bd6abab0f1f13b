'use client';

import { writeCount } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import { type FamilyData, type FamilyDrift } from '@/core/verify';
import { type SampleFamilyView } from '@/core/api';
import { useQuery } from '@tanstack/react-query';
import { Button, Dropdown, type MenuProps } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useFamilies } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { NameInput } from '@/ui/kit/name-input';
import {
  EachDialog,
  type FamiliesProps,
  HandDialog,
  KeepDialog,
  RemoveDialog,
  useKeeping,
} from './family-dialogs';
import style from './families.module.css';

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
    <Dialog
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
    </Dialog>
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
    <div className={style.familyNote} role="note" aria-label="This family">
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
            {writeCount(number)} {number === 1 ? 'record is' : 'records are'} otherwise in the data by now
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
