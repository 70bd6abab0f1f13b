'use client';

import { type ProposedType, typeForKind } from '@/core/intake';
import { ALL_KINDS, type Kind, KIND_NAMES, type ValueType, writeCount } from '@/core/values';
import { Checkbox, Input, Select } from 'antd';
import type { DraftedColumn } from './template-model';
import { clsx } from 'clsx';
import intakeStyle from '@/ui/intake/intake.module.css';
import style from './template-dialog.module.css';

/** A type that a column can link to: one that there is, or one that is made with it. */
export interface LinkTarget {
  readonly key: string;
  readonly name: string;
}

interface TemplateColumnsProps {
  readonly columns: readonly DraftedColumn[];
  readonly targets: readonly LinkTarget[];
  readonly proposal: ProposedType;
  readonly onChange: (columns: readonly DraftedColumn[]) => void;
}

/** Which column becomes which field, of which kind, beside its values. */
export function TemplateColumns({ columns, targets, proposal, onChange }: TemplateColumnsProps) {
  const write = (at: number, next: Partial<DraftedColumn>) =>
    onChange(columns.map((column, place) => (place === at ? { ...column, ...next } : column)));
  return (
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
              {...{ column, targets }}
              forms={proposal.forms}
              onChange={(next) => write(at, next)}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Kinds that a column of text can become; a link to each type that there is. */
const KINDS = ALL_KINDS.filter((kind) => kind !== 'link' && kind !== 'serial');

function kindChoices(types: readonly LinkTarget[]) {
  return [
    ...KINDS.map((kind) => ({ value: kind as string, label: KIND_NAMES[kind] })),
    ...types.map(({ key, name }) => ({ value: `link ${key}`, label: `link to ${name}` })),
  ];
}

interface ColumnRowProps {
  readonly column: DraftedColumn;
  readonly targets: readonly LinkTarget[];
  readonly forms: ProposedType['forms'];
  readonly onChange: (next: Partial<DraftedColumn>) => void;
}

function ColumnRow({ column, targets, forms, onChange }: ColumnRowProps) {
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
          options={kindChoices(targets)}
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
