'use client';

import { canonical, foundIn } from '@/core/values';
import type { Expression } from '@/core/expression';
import { type Model, typeIn, type SavedListDefinition } from '@/core/model';
import type { ModelView, SavedListView } from '@/core/api';
import { Button, Dropdown, Input, type MenuProps, Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { useTask } from '@/ui/kit/hooks/use-task';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { useRouter } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { SelectionDialog } from '@/ui/model/dialogs/selection-dialog';
import { usePerson } from '@/ui/api/person';
import modelStyle from '@/ui/model/model.module.css';

export type ListDefinition = Extract<SavedListDefinition, { kind: 'list' }>;

interface ListsMenuProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly type: string;
  readonly lists: readonly SavedListView[];
  /** The kept list that is open. */
  readonly list: SavedListView | null;
  /** The list as it is shown now; `null` while its condition isn't finished. */
  readonly shown: ListDefinition | null;
  readonly onCondition: (condition: Expression) => void;
}

type Open = 'save' | 'rename' | 'remove' | 'selection' | 'join' | null;

/** Saved lists, and selections to look at; what is shown can be saved as either. */
export function ListsMenu(props: ListsMenuProps) {
  const { model, view, type, lists, list, shown, onCondition } = props;
  const router = useRouter();
  const change = useListChange();
  const [open, setOpen] = useState<Open>(null);
  const selections = (model.selections ?? []).filter((selection) => selection.type === type);
  const isChanged = list !== null && shown !== null && !same(shown, list.definition);
  const named = (of: readonly SavedListView[]) =>
    of.map(({ id, name }) => ({ key: `list ${id}`, label: name }));
  const own = lists.filter(({ definition }) => definition.kind === 'list' && definition.type === type);
  const joined = lists.filter(({ definition }) => definition.kind === 'joined');
  const items: MenuProps['items'] = [
    ...group('Saved lists', named(own)),
    ...group(
      'Selections',
      selections.map(({ key, name }) => ({ key: `selection ${key}`, label: name })),
    ),
    ...group('Joined selections', named(joined)),
    { type: 'divider' },
    ...(list ? [{ key: 'all', label: 'All, as to begin with' }] : []),
    { key: 'save', label: 'Save this list …', disabled: shown === null },
    ...(isChanged ? [{ key: 'update', label: `Save the changes in “${list.name}”` }] : []),
    ...(list
      ? [
          { key: 'rename', label: `Rename “${list.name}” …` },
          { key: 'remove', label: `Remove “${list.name}” …`, danger: true },
        ]
      : []),
    ...(shown?.condition ? [{ key: 'selection', label: 'Save the condition as a selection …' }] : []),
    ...((model.selections ?? []).length > 1 ? [{ key: 'join', label: 'Join selections …' }] : []),
  ];
  const act = (key: string) => {
    if (key === 'all') router.push(`/records/${type}`);
    else if (key === 'update' && list && shown)
      void change.run('PATCH', `/lists/${list.id}`, { version: list.version, definition: shown }, 'Saved.');
    else if (key.startsWith('list ')) router.push(pathOf(foundIn(lists, ({ id }) => id === key.slice(5))));
    else if (key.startsWith('selection '))
      onCondition({ kind: 'selection', operator: 'isIn', route: [], selection: key.slice(10) });
    else setOpen(key as Open);
  };
  const close = () => setOpen(null);
  return (
    <>
      <Dropdown trigger={['click']} menu={{ items, onClick: ({ key }) => act(key) }}>
        <Button size="small">{list ? `${list.name}${isChanged ? ' (changed)' : ''}` : 'Lists'}</Button>
      </Dropdown>
      <ProblemNotice error={change.error} />
      {open === 'save' && shown ? (
        <NameDialog
          title="Save this list"
          note="Its condition, columns and order are saved for everybody."
          initial=""
          onClose={close}
          save={({ make }, name) => make(name, shown, close)}
        />
      ) : null}
      {open === 'rename' && list ? (
        <NameDialog
          title={`Rename “${list.name}”`}
          note=""
          initial={list.name}
          onClose={close}
          save={({ run }, name) =>
            run('PATCH', `/lists/${list.id}`, { version: list.version, name }, 'Renamed.', close)
          }
        />
      ) : null}
      {open === 'remove' && list ? (
        <RemoveListDialog list={list} onClose={close} back={`/records/${type}`} />
      ) : null}
      {open === 'selection' && shown?.condition ? (
        <SelectionDialog
          {...{ model }}
          version={view.version}
          type={typeIn(model, type)}
          before={null}
          initial={shown.condition}
          onClose={close}
        />
      ) : null}
      {open === 'join' ? <JoinDialog model={model} onClose={close} /> : null}
    </>
  );
}

const group = (label: string, children: { key: string; label: string }[]): NonNullable<MenuProps['items']> =>
  children.length > 0 ? [{ type: 'group', label, children }] : [];

/** Where a kept list is shown. */
export const pathOf = ({ id, definition }: SavedListView): string =>
  definition.kind === 'list' ? `/records/${definition.type}?list=${id}` : `/joined/${id}`;

/** Whether two lists show the same, whatever the order of their keys. */
function same(a: ListDefinition, b: SavedListDefinition): boolean {
  const print = ({ type, columns, sort, condition }: ListDefinition) =>
    canonical([type, columns, sort, condition]);
  return b.kind === 'list' && print(a) === print(b);
}

/** Makes and changes kept lists. */
export function useListChange() {
  const person = usePerson();
  const forget = useInvalidate();
  const router = useRouter();
  const { isBusy, error, run: start } = useTask();
  const run = (
    method: 'PATCH' | 'DELETE' | 'POST',
    path: string,
    body: unknown,
    done: string,
    onDone?: (list: SavedListView) => void,
  ) =>
    start(
      async () => {
        const answer = await callApi<SavedListView>(path, {
          ...{ method, person: person.id },
          ...(body === null ? {} : { body }),
        });
        await forget.everything();
        return answer;
      },
      () => done,
      onDone,
    );
  const make = (name: string, definition: SavedListDefinition, onDone?: () => void) =>
    run('POST', '/lists', { name, definition }, `“${name}” is saved.`, (made) => {
      router.push(pathOf(made));
      onDone?.();
    });
  return { isBusy, error, make, run };
}

interface NameDialogProps {
  readonly title: string;
  readonly note: string;
  readonly initial: string;
  readonly save: (change: ReturnType<typeof useListChange>, name: string) => Promise<unknown>;
  readonly onClose: () => void;
}

function NameDialog({ title, note, initial, save, onClose }: NameDialogProps) {
  const change = useListChange();
  const [name, setName] = useState(initial);
  const submit = () => save(change, name.trim());
  return (
    <Dialog
      open
      title={title}
      okText="Save it"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '' || name.trim() === initial, loading: change.isBusy }}
      onOk={() => void submit()}
      onCancel={onClose}
    >
      <Input
        aria-label="Name"
        autoFocus
        maxLength={80}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <p className="quiet">{note}</p>
      <ProblemNotice error={change.error} />
    </Dialog>
  );
}

/** Removing a list removes no record. */
export function RemoveListDialog({
  list,
  back,
  onClose,
}: {
  list: SavedListView;
  back: string;
  onClose: () => void;
}) {
  const router = useRouter();
  const change = useListChange();
  const remove = () =>
    change.run('DELETE', `/lists/${list.id}`, null, `“${list.name}” is removed.`, () => {
      router.push(back);
      onClose();
    });
  return (
    <Dialog
      open
      title={`Remove the list “${list.name}”?`}
      okText="Remove it"
      okButtonProps={{ danger: true, loading: change.isBusy }}
      cancelText="Not now"
      onOk={() => void remove()}
      onCancel={onClose}
    >
      <p>The list goes for everybody; the records in it stay.</p>
      <ProblemNotice error={change.error} />
    </Dialog>
  );
}

/** One list of the records of several selections, also of several types. */
function JoinDialog({ model, onClose }: { model: Model; onClose: () => void }) {
  const change = useListChange();
  const [name, setName] = useState('');
  const [keys, setKeys] = useState<readonly string[]>([]);
  const submit = () => change.make(name.trim(), { kind: 'joined', selections: keys }, onClose);
  return (
    <Dialog
      open
      title="Join selections in one list"
      okText="Save it"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '' || keys.length === 0, loading: change.isBusy }}
      onOk={() => void submit()}
      onCancel={onClose}
    >
      <div className={modelStyle.modelForm}>
        <label htmlFor="join-name">Name</label>
        <Input
          id="join-name"
          autoFocus
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <label htmlFor="join-selections">Selections</label>
        <Select
          id="join-selections"
          mode="multiple"
          showSearch={{ optionFilterProp: 'label' }}
          value={keys as string[]}
          options={(model.selections ?? []).map((selection) => ({
            value: selection.key,
            label: `${selection.name} (${typeIn(model, selection.type).plural})`,
          }))}
          onChange={setKeys}
        />
      </div>
      <ProblemNotice error={change.error} />
    </Dialog>
  );
}
