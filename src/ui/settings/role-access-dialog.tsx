import type { RoleView } from '@/core/api';
import type { Model, RoleAccess, TypeAccess } from '@/core/model';
import { useQuery } from '@tanstack/react-query';
import { Checkbox, Select } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate, useModel } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { clsx } from 'clsx';
import { ALL_OF, ownChoices, withAccess } from './access-draft';
import { FieldAccesses } from './field-accesses';
import style from './settings.module.css';

interface RoleAccessDialogProps {
  readonly role: RoleView;
  readonly onClose: () => void;
}

/** What a role sees and may less than all: by type, by record, by field. */
export function RoleAccessDialog({ role, onClose }: RoleAccessDialogProps) {
  const { id: person } = usePerson();
  const model = useModel();
  const invalidate = useInvalidate();
  const task = useTask();
  const path = `/roles/${role.key}/access`;
  const { data, error } = useQuery({
    queryKey: ['roleAccess', role.key],
    queryFn: () => callApi<{ access: RoleAccess }>(path),
  });
  const [draft, setDraft] = useState<RoleAccess | null>(null);
  const access = draft ?? data?.access ?? null;
  const keep = () =>
    void task.run(
      () => callApi(path, { method: 'POST', body: { access }, person }),
      () => `Whoever is ${role.name} sees that from now on`,
      () => {
        void invalidate.everything();
        onClose();
      },
    );
  return (
    <Dialog
      open
      width={1040}
      title={`What ${role.name} sees`}
      okText="Save it"
      okButtonProps={{ disabled: draft === null, loading: task.isBusy }}
      onOk={keep}
      onCancel={onClose}
    >
      <p className="quiet">
        Whoever sees a part is shown records, lists, search and files with that part; places that would show
        all of the workspace are closed to them. Rules work for everybody alike.
      </p>
      <ProblemNotice error={error ?? task.error} />
      {model && access ? (
        <Types {...{ model, access, role }} onChange={setDraft} />
      ) : error ? null : (
        <Loading what="what it sees" />
      )}
    </Dialog>
  );
}

interface TypesProps {
  readonly model: Model;
  readonly role: RoleView;
  readonly access: RoleAccess;
  readonly onChange: (access: RoleAccess) => void;
}

const MAY = [
  ['see', 'see'],
  ['add', 'add'],
  ['change', 'change'],
  ['delete', 'delete'],
  ['export', 'take out'],
] as const;

function Types({ model, role, access, onChange }: TypesProps) {
  const isEditing = role.rights.includes('edit');
  const isOpen = (what: keyof TypeAccess) =>
    what === 'see' || (what === 'export' ? role.rights.includes('export') : isEditing);
  return (
    <table className={clsx(style.people, style.matrix, style.accesses)}>
      <thead>
        <tr>
          <th scope="col">Type</th>
          {MAY.map(([key, words]) => (
            <th key={key} scope="col">
              May {words}
            </th>
          ))}
          <th scope="col">Which records</th>
          <th scope="col">Fields</th>
        </tr>
      </thead>
      <tbody>
        {model.types.map((type) => {
          const own = access[type.key] ?? ALL_OF;
          const change = (to: Partial<TypeAccess>) =>
            onChange(withAccess(access, type.key, { ...own, ...to }));
          return (
            <tr key={type.key}>
              <th scope="row">{type.plural}</th>
              {MAY.map(([key, words]) => (
                <td key={key}>
                  <Checkbox
                    aria-label={`May ${words} ${type.plural}`}
                    checked={own[key] && own.see && isOpen(key)}
                    disabled={(key !== 'see' && !own.see) || !isOpen(key)}
                    onChange={(event) => change({ [key]: event.target.checked })}
                  />
                </td>
              ))}
              <td>
                <Records {...{ model, own }} type={type.key} plural={type.plural} onChange={change} />
              </td>
              <td>
                <FieldAccesses {...{ model, type, own }} onChange={change} />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

interface RecordsProps {
  readonly model: Model;
  readonly type: string;
  readonly plural: string;
  readonly own: TypeAccess;
  readonly onChange: (to: Partial<TypeAccess>) => void;
}

/** Which records of a type a role sees: all, those of a selection, those that are one's own. */
function Records({ model, type, plural, own, onChange }: RecordsProps) {
  const owners = ownChoices(model, type);
  const selections = (model.selections ?? []).filter((one) => one.type === type);
  const keyOf = (one: TypeAccess['own']) => (one === null ? '' : [...one.route, one.field].join('.'));
  if (owners.length === 0 && selections.length === 0) return <span className="quiet">all</span>;
  return (
    <div className={style.records}>
      {selections.length > 0 ? (
        <Select
          size="small"
          aria-label={`Which ${plural}, by a selection`}
          value={own.selection ?? ''}
          disabled={!own.see}
          options={[
            { value: '', label: 'all' },
            ...selections.map(({ key, name }) => ({ value: key, label: name })),
          ]}
          onChange={(to: string) => onChange({ selection: to === '' ? null : to })}
        />
      ) : null}
      {owners.length > 0 ? (
        <Select
          size="small"
          aria-label={`Whose ${plural}`}
          value={keyOf(own.own)}
          disabled={!own.see}
          options={[
            { value: '', label: 'anybody’s' },
            ...owners.map((one) => ({ value: keyOf(one.own), label: `whose ${one.words} is me` })),
          ]}
          onChange={(to: string) =>
            onChange({ own: owners.find((one) => keyOf(one.own) === to)?.own ?? null })
          }
        />
      ) : null}
    </div>
  );
}
