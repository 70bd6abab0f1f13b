'use client';

import { canFind, type ImportColumn, type KeeperName } from '@/core/intake';
import { type Model, type RecordType, typeIn } from '@/core/model';
import { KIND_NAMES } from '@/core/values';
import { Checkbox, Select } from 'antd';
import type { Head } from './read-head';
import intakeStyle from './intake.module.css';

interface ColumnTableProps {
  readonly model: Model;
  readonly type: RecordType;
  readonly head: Head;
  readonly columns: readonly ImportColumn[];
  readonly keeperOf: KeeperName;
  /** Records that are there are changed, so what an empty cell means matters. */
  readonly isChanging: boolean;
  readonly onChange: (columns: readonly ImportColumn[]) => void;
}

/** What is said anew of a column; `foundBy` of `undefined` takes back what was said. */
type Written = Partial<Omit<ImportColumn, 'foundBy'>> & { readonly foundBy?: string | undefined };

const LEFT_OUT = '';

/** Which column fills which field. */
export function ColumnTable(props: ColumnTableProps) {
  const { model, type, head, columns, keeperOf, isChanging, onChange } = props;
  const write = (column: string, next: Written | null) => {
    const others = columns.filter((one) => one.column !== column);
    const before = columns.find((one) => one.column === column);
    const { foundBy, ...rest } = { column, field: '', ...before, ...next };
    const said = foundBy === undefined ? rest : { ...rest, foundBy };
    const kept = next === null ? others : [...others, said];
    onChange([...kept].sort((a, b) => head.headings.indexOf(a.column) - head.headings.indexOf(b.column)));
  };
  const taken = new Set(columns.map(({ field }) => field));
  /** A second column of a link finds by something else than the first. */
  const foundBeside = (heading: string, key: string): string | undefined => {
    const field = model.field(type.key, key);
    if (field?.type.kind !== 'link') return undefined;
    const parent = typeIn(model, field.type.target);
    const others = columns.filter((one) => one.field === key && one.column !== heading);
    if (others.length === 0) return undefined;
    const used = new Set(others.map(({ foundBy }) => foundBy ?? parent.title));
    return parent.fields.find((one) => canFind(one) && !used.has(one.key))?.key;
  };
  const choices = (own: string | undefined) => [
    { value: LEFT_OUT, label: 'Leave out' },
    ...type.fields
      .filter(({ key }) => keeperOf(key) === undefined)
      .map(({ key, name, type: { kind } }) => ({
        ...{ value: key, label: `${name} (${KIND_NAMES[kind]})` },
        // Several columns may find the record of one link together.
        disabled: taken.has(key) && key !== own && kind !== 'link',
      })),
    { value: 'id', label: 'Id of the record', disabled: taken.has('id') && own !== 'id' },
  ];
  return (
    <table className={intakeStyle.columnTable}>
      <thead>
        <tr>
          <th scope="col">Column of the file</th>
          <th scope="col">First values</th>
          <th scope="col">Fills</th>
          <th scope="col">How</th>
        </tr>
      </thead>
      <tbody>
        {head.headings.map((heading, at) => {
          const column = columns.find((one) => one.column === heading);
          const field = column ? model.field(type.key, column.field) : undefined;
          return (
            <tr key={`${at} ${heading}`} className={column ? '' : intakeStyle.leftOut}>
              <th scope="row">{heading === '' ? <em>no heading</em> : heading}</th>
              <td className={intakeStyle.firstValues}>
                {head.rows
                  .slice(0, 3)
                  .map((row) => row[at] ?? '')
                  .filter((text) => text !== '')
                  .join(' · ') || <span className="quiet">empty</span>}
              </td>
              <td>
                <Select
                  aria-label={`What ${heading} fills`}
                  value={column?.field ?? LEFT_OUT}
                  options={choices(column?.field)}
                  showSearch={{ optionFilterProp: 'label' }}
                  onChange={(key: string) =>
                    write(
                      heading,
                      key === LEFT_OUT ? null : { field: key, foundBy: foundBeside(heading, key) },
                    )
                  }
                  style={{ width: '100%' }}
                />
              </td>
              <td>
                {column && field?.type.kind === 'link' ? (
                  <FoundBy
                    {...{ model, column }}
                    target={field.type.target}
                    onChange={(foundBy) => write(heading, { foundBy })}
                  />
                ) : null}
                {column && field && isChanging && !field.required ? (
                  <Checkbox
                    checked={column.clears === true}
                    onChange={(event) => write(heading, { clears: event.target.checked })}
                  >
                    Empty clears
                  </Checkbox>
                ) : null}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function FoundBy({
  model,
  target,
  column,
  onChange,
}: {
  model: Model;
  target: string;
  column: ImportColumn;
  onChange: (by: string) => void;
}) {
  const parent = typeIn(model, target);
  return (
    <Select
      size="small"
      aria-label={`By what the ${parent.name} in ${column.column} is found`}
      value={column.foundBy ?? parent.title}
      options={[
        ...parent.fields.filter(canFind).map(({ key, name, type: { kind } }) => ({
          ...{ value: key, label: `found by ${name}${kind === 'link' ? ', by its title' : ''}` },
        })),
        { value: 'id', label: 'found by id' },
      ]}
      onChange={onChange}
      popupMatchSelectWidth={false}
      style={{ minWidth: 130 }}
    />
  );
}
