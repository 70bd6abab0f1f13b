'use client';

import { type ProposedField, type ProposedType, typeForKind } from '@/core/intake';
import { pluralOf, singularOf } from '@/ui/kit/values/plurals';
import { type Field, keyOf, type ModelChange, type RecordType } from '@/core/model';
import { ALL_KINDS, type Kind, KIND_NAMES, type ValueType, writeCount } from '@/core/values';
import type { ModelView } from '@/core/api';
import { Checkbox, Input, Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { useTask } from '@/ui/kit/hooks/use-task';
import { useRouter } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import { useApplyChanges, useModelRehearsal } from './use-changes';
import { WouldDo } from './would-do';
import { FileChoice } from '@/ui/intake/file-choice';
import { handFile } from '@/ui/intake/handed-file';
import { proposalOf, readHead } from '@/ui/intake/read-head';
import { clsx } from 'clsx';
import intakeStyle from '@/ui/intake/intake.module.css';
import style from './template-dialog.module.css';

interface TemplateProps {
  readonly model: ModelView;
  readonly onClose: () => void;
  readonly onMade: (type: string) => void;
}

/** Makes a type from a file: its columns become fields, of kinds that their values suggest; then its rows can be taken in. */
export function TemplateDialog({ model, onClose, onMade }: TemplateProps) {
  const [file, setFile] = useState<File | null>(null);
  const [proposal, setProposal] = useState<ProposedType | null>(null);
  const { error, run } = useTask();
  const read = (chosen: File) => {
    setFile(chosen);
    setProposal(null);
    return run(async () => proposalOf(await readHead(chosen), model.types), null, setProposal);
  };
  if (file && proposal)
    return (
      <Template
        key={`${file.name} ${file.lastModified}`}
        {...{ model, file, proposal, onClose, onMade }}
        onFile={(chosen) => void read(chosen)}
      />
    );
  return (
    <Dialog open title="A type of record from a file" width={980} footer={null} onCancel={onClose}>
      <FileChoice file={file} onFile={(chosen) => void read(chosen)} />
      <ProblemNotice error={error} />
      <p className="quiet">
        Its columns become fields. You see and change what is proposed before anything is made, and can take
        its rows in afterwards.
      </p>
    </Dialog>
  );
}

/** A column's field while it is looked at. */
interface Drafted {
  readonly proposed: ProposedField;
  readonly isWanted: boolean;
  readonly name: string;
  readonly type: ValueType;
}

/** `touring loans.csv` → `Touring loan`. */
function nameFrom(file: File): { name: string; plural: string } {
  const plain = file.name
    .replace(/\.[^.]*$/, '')
    .replace(/[_-]+/g, ' ')
    .trim()
    .slice(0, 60);
  const called = plain.charAt(0).toUpperCase() + plain.slice(1);
  const name = singularOf(called);
  return { name, plural: pluralOf(name) };
}

interface OpenTemplateProps extends TemplateProps {
  readonly file: File;
  readonly proposal: ProposedType;
  readonly onFile: (file: File) => void;
}

function Template({ model, file, proposal, onClose, onMade, onFile }: OpenTemplateProps) {
  const router = useRouter();
  const [names, setNames] = useState(() => nameFrom(file));
  const [columns, setColumns] = useState<readonly Drafted[]>(() =>
    proposal.fields.map((proposed) => ({
      ...{ proposed, isWanted: true, name: proposed.field.name, type: proposed.field.type },
    })),
  );
  const [title, setTitle] = useState<string | null>(proposal.title);
  const [goesOn, setGoesOn] = useState(true);
  const key = keyOf(names.name, new Set(model.types.map((type) => type.key)));
  const fields = fieldsOf(columns, names.plural.trim());
  const texts = fields.filter(({ type }) => type.kind === 'text');
  const named = texts.find((field) => field.key === title) ?? null;
  const isReady = names.name.trim() !== '' && named !== null;
  const change: ModelChange | null = isReady
    ? {
        kind: 'addType',
        type: {
          ...{ key, name: names.name.trim(), plural: names.plural.trim() || pluralOf(names.name) },
          title: named.key,
          fields: fields.map((field) => (field.key === named.key ? { ...field, required: true } : field)),
        },
      }
    : null;
  const { rehearsal, error, isCurrent } = useModelRehearsal(change ? [change] : null);
  const { apply, isBusy, error: refused } = useApplyChanges(model.version);
  const make = async () => {
    if (!change || !(await apply([change], `${names.name.trim()} is added.`))) return;
    onMade(key);
    onClose();
    if (!goesOn) return;
    handFile(file);
    router.push(`/records/${key}/import`);
  };
  const write = (at: number, next: Partial<Drafted>) =>
    setColumns(columns.map((column, place) => (place === at ? { ...column, ...next } : column)));
  return (
    <Dialog
      open
      title="A type of record from a file"
      width={980}
      okText="Add the type"
      okButtonProps={{ disabled: !isReady || !isCurrent || !(rehearsal?.isPossible ?? false) }}
      confirmLoading={isBusy}
      onOk={() => void make()}
      onCancel={onClose}
    >
      <FileChoice {...{ file, onFile }} />
      <div className={style.templateNames}>
        <label>
          Name
          <Input
            aria-label="Name"
            maxLength={80}
            value={names.name}
            placeholder="one of them: Loan"
            onChange={(event) => setNames({ ...names, name: event.target.value })}
          />
        </label>
        <label>
          Name of several
          <Input
            aria-label="Name of several"
            maxLength={80}
            value={names.plural}
            onChange={(event) => setNames({ ...names, plural: event.target.value })}
          />
        </label>
        <label>
          Records are named by
          <Select
            aria-label="Records are named by"
            value={named?.key ?? null}
            placeholder="a text that every row has"
            options={texts.map((field) => ({ value: field.key, label: field.name }))}
            onChange={setTitle}
          />
        </label>
      </div>
      <div className={style.templateColumns}>
        <table className={clsx(intakeStyle.columnTable, style.templateTable)}>
          <thead>
            <tr>
              <th scope="col">Column</th>
              <th scope="col">Field</th>
              <th scope="col">Kind</th>
              <th scope="col">
                Values, of {writeCount(proposal.rows)} {proposal.rows === 1 ? 'row' : 'rows'}
              </th>
            </tr>
          </thead>
          <tbody>
            {columns.map((column, at) => (
              <ColumnRow
                key={`${at} ${column.proposed.heading}`}
                {...{ column, model }}
                forms={proposal.forms}
                onChange={(next) => write(at, next)}
              />
            ))}
          </tbody>
        </table>
      </div>
      <p>
        <Checkbox checked={goesOn} onChange={(event) => setGoesOn(event.target.checked)}>
          Then take in the rows of the file
        </Checkbox>
      </p>
      {named ? null : <p className="finding">Choose the text by which records are named.</p>}
      <WouldDo rehearsal={rehearsal} error={error} isCurrent={isCurrent} />
      <ProblemNotice error={refused} />
    </Dialog>
  );
}

/** The fields of the wanted columns, with keys of their names. */
function fieldsOf(columns: readonly Drafted[], plural: string): Field[] {
  const taken = new Set(['id']);
  return columns
    .filter(({ isWanted }) => isWanted)
    .map(({ name, type }): Field => {
      const key = keyOf(name, taken);
      taken.add(key);
      return {
        ...{ key, name: name.trim(), type },
        ...(type.kind === 'link' ? { otherEnd: plural || 'Records', whenParentGoes: 'refuse' as const } : {}),
      };
    });
}

/** Kinds that a column of text can become; a link to each type that there is. */
const KINDS = ALL_KINDS.filter((kind) => kind !== 'link' && kind !== 'serial');

function kindChoices(types: readonly RecordType[]) {
  return [
    ...KINDS.map((kind) => ({ value: kind as string, label: KIND_NAMES[kind] })),
    ...types.map(({ key, name }) => ({ value: `link ${key}`, label: `link to ${name}` })),
  ];
}

interface ColumnRowProps {
  readonly column: Drafted;
  readonly model: ModelView;
  readonly forms: ProposedType['forms'];
  readonly onChange: (next: Partial<Drafted>) => void;
}

function ColumnRow({ column, model, forms, onChange }: ColumnRowProps) {
  const { proposed, isWanted, name, type } = column;
  const isAsProposed = type === proposed.field.type;
  const choose = (kind: string) =>
    onChange({
      type: kind.startsWith('link ')
        ? { kind: 'link', target: kind.slice(5) }
        : proposed.field.type.kind === kind
          ? proposed.field.type
          : typeForKind(kind as Kind, proposed.values, forms),
    });
  return (
    <tr className={isWanted ? '' : intakeStyle.leftOut}>
      <th scope="row">
        <Checkbox
          checked={isWanted}
          onChange={(event) => onChange({ isWanted: event.target.checked })}
          aria-label={`Make a field of ${proposed.heading}`}
        />{' '}
        {proposed.heading}
      </th>
      <td>
        <Input
          aria-label={`Name of the field of ${proposed.heading}`}
          value={name}
          maxLength={80}
          disabled={!isWanted}
          onChange={(event) => onChange({ name: event.target.value })}
        />
      </td>
      <td>
        <Select
          aria-label={`Kind of ${proposed.heading}`}
          value={type.kind === 'link' ? `link ${type.target}` : type.kind}
          disabled={!isWanted}
          options={kindChoices(model.types)}
          showSearch={{ optionFilterProp: 'label' }}
          onChange={choose}
        />
        <span className="quiet">{settingWords(type)}</span>
      </td>
      <td className={style.templateValues}>
        {proposed.values.slice(0, 4).join(' · ') || <span className="quiet">empty</span>}
        {isWanted && isAsProposed
          ? proposed.doubts.map((doubt) => (
              <p key={doubt} className={style.templateDoubts}>
                {doubt}
              </p>
            ))
          : null}
      </td>
    </tr>
  );
}

function settingWords(type: ValueType): string {
  switch (type.kind) {
    case 'number':
      return `${type.scale} decimal ${type.scale === 1 ? 'place' : 'places'}${type.unit ? `, ${type.unit}` : ''}`;
    case 'money':
      return type.currency;
    case 'rating':
      return `${type.lowest} to ${type.highest}`;
    case 'choice':
    case 'choices':
      return `${type.options.length} options`;
    default:
      return '';
  }
}
