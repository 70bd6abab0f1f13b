import { type RecordRef, type Write } from '@/core/engine';
import type { Binds } from '@/server/store/sql/sql';

/** How a group of records stands in a statement. */
interface Source {
  readonly from: readonly string[];
  readonly id: string;
  readonly value: (column: string) => string;
  readonly also: string;
}

const unquoted = (column: string): string => column.replace(/^"|"$/g, '');

export function boundAlone(group: readonly Pending[], binds: Binds): Source {
  const [entry] = group as [Pending];
  return { from: [], id: binds.record(entry.id), value: boundValues(entry, binds), also: '' };
}

/** Records that are all given the same: that is bound once. */
export function boundAlike(group: readonly Pending[], binds: Binds): Source {
  const [first] = group as [Pending];
  const ids = group.map(({ id }) => id);
  return { from: [], id: `ANY(${binds.add(ids, 'uuid[]')})`, value: boundValues(first, binds), also: '' };
}

const boundValues =
  ({ deletedWith, columns, values }: Pending, binds: Binds) =>
  (column: string): string => {
    const type = columns.get(column);
    if (type === undefined) return binds.add(deletedWith, 'uuid');
    const value = values[unquoted(column)];
    return binds.add(type === 'jsonb' && value !== null ? JSON.stringify(value) : value, type);
  };

export const isAlike = (group: readonly Pending[]): boolean => {
  const [first] = group as [Pending];
  const given = Object.entries(first.values);
  return (
    first.kind === 'edit' && group.every(({ values }) => given.every(([key, value]) => values[key] === value))
  );
};

export function boundTogether(group: readonly Pending[], binds: Binds): Source {
  const [{ columns, kind }] = group as [Pending];
  const types = [...columns].sort(([a], [b]) => (a < b ? -1 : 1)).map(([name, type]) => `${name} ${type}`);
  const documents = group.map(({ id, deletedWith, values }) => ({
    id,
    deleted_with: deletedWith,
    ...values,
  }));
  const source = binds.add(JSON.stringify(documents), 'jsonb');
  const ids = () =>
    binds.add(
      group.map(({ id }) => id),
      'uuid[]',
    );
  return {
    from: [`jsonb_to_recordset(${source}) AS x(${['id uuid', 'deleted_with uuid', ...types].join(', ')})`],
    id: 'x.id',
    value: (column) => `x.${column}`,
    also: kind === 'create' ? '' : `AND t.id = ANY(${ids()})`,
  };
}

/** All that a run does to one record. */
export interface Pending extends RecordRef {
  kind: Write['kind'];
  /** A person changed it, so its version is raised. */
  isEdited: boolean;
  /** Something of it changed; otherwise only what is kept beside its values. */
  isChanged: boolean;
  deletedWith: string | null;
  /** Columns with their SQL types. */
  readonly columns: Map<string, string>;
  readonly values: Record<string, unknown>;
}
