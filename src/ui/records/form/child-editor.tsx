'use client';

import type { WireEdit } from '@/core/engine';
import { type Field, type Link, type Model, openLinkOf, type RecordType, typeIn } from '@/core/model';
import { certain, foundIn, parseValue, type WireValue } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import type { ModelView, SavedRun } from '@/core/api';
import { Button } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { EditableCell } from '@/ui/kit/values/editable-cell';
import { liveKeeper } from '@/ui/kit/live-keeper';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { sameWire } from '@/ui/kit/values/same-wire';
import { usePerson } from '@/ui/api/person';
import { savedWords } from './use-save';
import { RehearsedDialog } from '@/ui/records/rehearsed-dialog';
import { useUnsaved } from '@/ui/kit/unsaved';
import { isAmount } from '@/ui/records/words';
import formStyle from './form.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import recordsStyle from '@/ui/records/records.module.css';
import style from './child-editor.module.css';

export interface ChildEditorProps {
  readonly model: Model;
  readonly view: ModelView;
  /** The link by which the records hang under the one whose page this is. */
  readonly link: Link;
  readonly records: readonly WireRecord[];
  readonly names: Readonly<Record<string, string>>;
  readonly onClose: () => void;
}

type Values = Readonly<Record<string, WireValue>>;

/** What is entered for a record, without what stands there already. */
function entered(record: WireRecord, values: Values): Values | null {
  const changed = Object.entries(values).filter(([key, value]) => !sameWire(record.values[key], value));
  return changed.length > 0 ? Object.fromEntries(changed) : null;
}

/** Children edited where they hang: their fields in place, and their link to move them elsewhere. Saved together as one run. */
export function ChildEditor({ model, view, link, records, names, onClose }: ChildEditorProps) {
  const type = typeIn(model, link.type);
  const person = usePerson();
  const forget = useInvalidate();
  const saving = useTask();
  const [staged, setStaged] = useState<ReadonlyMap<string, Values>>(new Map());
  const [isLooking, setLooking] = useState(false);
  const title = foundIn(type.fields, ({ key }) => key === type.title);
  const open = openLinkOf(type, link.link);
  const moving = type.fields.filter(({ key }) => key === link.link || (open?.links.includes(key) ?? false));
  const columns = [
    title,
    ...moving,
    ...type.fields.filter((field) => field !== title && !moving.includes(field)),
  ];
  const keeperOf = (key: string) => liveKeeper(view, link.type, key)?.name ?? null;
  const put = (record: WireRecord, field: Field, value: WireValue) => {
    const others =
      value !== null && open?.links.includes(field.key)
        ? Object.fromEntries(open.links.filter((key) => key !== field.key).map((key) => [key, null]))
        : {};
    const values = entered(record, { ...staged.get(record.id), ...others, [field.key]: value });
    const next = new Map(staged);
    if (values) next.set(record.id, values);
    else next.delete(record.id);
    setStaged(next);
  };
  const edits = records.flatMap((record): WireEdit[] => {
    const values = staged.get(record.id);
    return values ? [{ kind: 'edit', type: link.type, id: record.id, version: record.version, values }] : [];
  });
  const fields = edits.reduce((number, { values }) => number + Object.keys(certain(values)).length, 0);
  useUnsaved(edits.length > 0 ? `Changes of ${type.plural.toLowerCase()}` : null);
  const what = edits.length === 1 ? type.name.toLowerCase() : type.plural.toLowerCase();
  const end = () => {
    setStaged(new Map());
    onClose();
  };
  const save = () =>
    saving.run(
      async () => {
        const saved = await callApi<SavedRun>('/changes', {
          method: 'POST',
          body: { edits },
          person: person.id,
        });
        await forget.records();
        return saved;
      },
      savedWords,
      end,
    );
  return (
    <div className={style.childEditor}>
      <ChildRows {...{ type, columns, moving, records, staged, names, keeperOf, onEdit: put }} />
      <ProblemNotice error={saving.error} />
      <div className={recordsStyle.recordSave}>
        <span className="quiet">
          {edits.length === 0
            ? 'Press a value to change it. To move a record, change what it hangs under.'
            : `${fields} ${fields === 1 ? 'value' : 'values'} of ${edits.length} ${what} changed, not saved yet.`}
        </span>
        <Button onClick={end}>{edits.length === 0 ? 'Done' : 'Give up changes'}</Button>
        <Button disabled={edits.length === 0} onClick={() => setLooking(true)}>
          What follows …
        </Button>
        <Button
          type="primary"
          disabled={edits.length === 0}
          loading={saving.isBusy}
          onClick={() => void save()}
        >
          Save
        </Button>
      </div>
      {isLooking ? (
        <RehearsedDialog
          title={`Save ${edits.length} ${what}`}
          edits={edits}
          okText={() => 'Save'}
          lead={() => 'What would change, and what follows from it:'}
          firstName="You change"
          done="Saved as one run."
          onClose={() => setLooking(false)}
          onDone={end}
        />
      ) : null}
    </div>
  );
}

interface RowsProps extends Pick<ChildEditorProps, 'records' | 'names'> {
  readonly type: RecordType;
  readonly columns: readonly Field[];
  /** Links by which a record hangs under another. */
  readonly moving: readonly Field[];
  readonly staged: ReadonlyMap<string, Values>;
  /** The name of the rule that keeps a field. */
  readonly keeperOf: (key: string) => string | null;
  readonly onEdit: (record: WireRecord, field: Field, value: WireValue) => void;
}

function ChildRows({ type, columns, moving, records, staged, names, keeperOf, onEdit }: RowsProps) {
  return (
    <div className={formStyle.childRows}>
      <table className={kitStyle.members}>
        <thead>
          <tr>
            {columns.map((field) => (
              <th key={field.key} scope="col" className={isAmount(field) ? 'amount' : undefined}>
                {moving.includes(field) ? `Hangs under (${field.name})` : field.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {records.map((record) => (
            <tr key={record.id}>
              {columns.map((field) => (
                <td key={field.key} className={isAmount(field) ? 'amount' : undefined}>
                  <EditableCell
                    field={field}
                    before={record.values[field.key] ?? null}
                    after={afterOf(record, staged, field.key)}
                    keptBy={keeperOf(field.key)}
                    problem={record.errors[field.key] ? 'This value can’t be worked out.' : null}
                    isMarked={false}
                    recordTitle={String(record.values[type.title])}
                    nameOf={(id) => names[id]}
                    onEdit={(value) => onEdit(record, field, fitting(field, value))}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What stands in a cell: an empty value may be entered too. */
function afterOf(record: WireRecord, staged: ReadonlyMap<string, Values>, key: string): WireValue {
  const values = staged.get(record.id);
  return values && key in values ? values[key]! : (record.values[key] ?? null);
}

/** As it will come back from the server: nothing for a text without characters. */
function fitting(field: Field, value: WireValue): WireValue {
  const parsed = parseValue(field.type, value);
  return parsed.ok && parsed.value === null ? null : value;
}
