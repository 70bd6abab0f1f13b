import type { RoleView } from '@/core/api';
import { describe, typeCondition } from '@/core/expression';
import type { Model, RecordType, RoleAccess, TypeAccess } from '@/core/model';
import { useQuery } from '@tanstack/react-query';
import { Button, Checkbox, Popover, Select } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate, useModel, usePeople } from '@/ui/api/queries';
import { Condition } from '@/ui/expression/condition';
import expressionStyle from '@/ui/expression/expression.module.css';
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
  const people = usePeople();
  const nameOf = (id: string) => people.data?.people.find((one) => one.id === id)?.name;
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
        Whoever sees a part is shown records, lists, search, files and what waits with that part; places that
        would show all of the workspace are closed to them. Rules work for everybody alike.
      </p>
      <ProblemNotice error={error ?? task.error} />
      {model && access ? (
        <Types {...{ model, access, role, nameOf }} onChange={setDraft} />
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
  readonly nameOf: (id: string) => string | undefined;
  readonly onChange: (access: RoleAccess) => void;
}

const MAY = [
  ['see', 'see'],
  ['add', 'add'],
  ['change', 'change'],
  ['delete', 'delete'],
  ['export', 'take out'],
] as const;

function Types({ model, role, access, nameOf, onChange }: TypesProps) {
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
                <Records {...{ model, type, own, nameOf }} onChange={change} />
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
  readonly type: RecordType;
  readonly own: TypeAccess;
  readonly nameOf: (id: string) => string | undefined;
  readonly onChange: (to: Partial<TypeAccess>) => void;
}

/** Which records of a type a role sees: all, those of a selection, those that are one's own, those for which a condition holds. */
function Records({ model, type, own, nameOf, onChange }: RecordsProps) {
  const { key: at, plural } = type;
  const owners = ownChoices(model, at);
  const selections = (model.selections ?? []).filter((one) => one.type === at);
  const keyOf = (one: TypeAccess['own']) => (one === null ? '' : [...one.route, one.field].join('.'));
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
      <Where {...{ model, type, own, nameOf, onChange }} />
    </div>
  );
}

/** Any other condition for a record to be seen, told in short and opened to be written. */
function Where({ model, type, own, nameOf, onChange }: RecordsProps) {
  const where = own.where ?? null;
  const typed = where && typeCondition(model, type.key, where, { usesRunContext: 'me' });
  const words =
    typed === null
      ? 'no condition'
      : typed.ok
        ? `where ${describe(model, typed.value, nameOf)}`
        : 'not finished';
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <p className={clsx(expressionStyle.sentence, style.where)}>
          {type.plural}
          <Condition
            {...{ model, nameOf }}
            type={type.key}
            condition={where}
            usesRunContext="me"
            onChange={(to) => onChange({ where: to })}
          />
        </p>
      }
    >
      <Button
        size="small"
        type="text"
        disabled={!own.see}
        className={style.whereWords ?? ''}
        title={words}
        aria-label={`Which ${type.plural}, by a condition: ${words}`}
      >
        {words} …
      </Button>
    </Popover>
  );
}
