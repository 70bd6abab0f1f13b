import { foundBy, type ImportPlan } from '@/core/intake';
import { type Field, fieldIn, type Model, typeIn } from '@/core/model';
import { certain, firstIn, parseValue, type ProblemCode, type ValueType } from '@/core/values';
import type { Transaction } from 'sequelize';
import { type Binds, bindType } from '@/server/store/sql/sql';
import { toColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/**
 * The rows of a file that have been read, beside the records, for the time of one transaction. No type's table has two underscores
 * in its name, so none of these names meets one in a rehearsal.
 */
export const INCOMING = 'pg_temp.import__rows';

/** One thing by which the record that a link names is found. */
export interface LookupPart {
  readonly by: Field;
  readonly heading: string;
  /** The column of the table of incoming rows that holds it, and what kind of value that is: for a link a title. */
  readonly column: string;
  readonly type: ValueType;
}

/** A field that a column of the file fills. */
export interface Filled {
  readonly field: Field;
  readonly heading: string;
  /** The column of the table of incoming rows that holds the value. */
  readonly column: string;
  readonly clears: boolean;
  /** For a link that isn't given by id: by what its record is found. */
  readonly lookup: { readonly target: string; readonly parts: readonly LookupPart[] } | null;
  /** For one link of an open link: the columns of all of them, itself included. */
  readonly open: readonly string[];
  /** Not a column of the file: another link of an open link, which is emptied where the file fills one. */
  readonly isEmptied: boolean;
}

export interface IncomingInput {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly type: string;
  readonly plan: ImportPlan;
}

/** A reason why a row is refused. */
export interface RefusedRow {
  readonly line: number;
  /** The heading of the column that is at fault, or empty for the row as a whole. */
  readonly column: string;
  readonly code: ProblemCode;
  readonly message: string;
}

/** The fields that a plan fills, in its order; with the links of an open link that it fills, the others. */
export function filledBy(input: Omit<IncomingInput, 'transaction'>): Filled[] {
  const given = givenBy(input);
  const { openLinks = [] } = typeIn(input.workspace.model, input.type);
  const of = (link: string) => given.find(({ field }) => field.key === link);
  const emptied = openLinks.flatMap(({ links }) => {
    const heading = links.flatMap((link) => of(link)?.heading ?? [])[0];
    const missing = heading === undefined ? [] : links.filter((link) => !of(link));
    return missing.map((link): Omit<Filled, 'column'> => ({
      ...{ field: fieldIn(input.workspace.model, input.type, link), heading: certain(heading) },
      ...{ clears: false, lookup: null, open: [], isEmptied: true },
    }));
  });
  const all = [...given, ...emptied.map((one, at) => ({ ...one, column: `e_${at}` }))];
  return all.map((one) => {
    const { links = [] } = openLinks.find((open) => open.links.includes(one.field.key)) ?? {};
    return { ...one, open: all.filter(({ field }) => links.includes(field.key)).map(({ column }) => column) };
  });
}

function givenBy({ workspace, type, plan }: Omit<IncomingInput, 'transaction'>): Filled[] {
  const { model } = workspace;
  const fields = [...new Set(plan.columns.map(({ field }) => field))].filter((field) => field !== 'id');
  return fields.map((key, at): Filled => {
    const field = fieldIn(model, type, key);
    const columns = plan.columns.filter((column) => column.field === key);
    const target = field.type.kind === 'link' ? field.type.target : null;
    const parts =
      target === null
        ? []
        : columns.flatMap((column, part): LookupPart[] => {
            const name = foundBy(model, target, column);
            if (name === 'id') return [];
            const by = fieldIn(model, target, name);
            const as = by.type.kind === 'link' ? titleOf(model, by.type.target).type : by.type;
            return [{ by, heading: column.column, column: `l_${at}_${part}`, type: as }];
          });
    return {
      ...{ field, heading: firstIn(columns).column, column: `f_${at}` },
      ...{ clears: columns.some(({ clears }) => clears === true), open: [], isEmptied: false },
      lookup: parts.length > 0 ? { target: certain(target), parts } : null,
    };
  });
}

const titleOf = (model: Model, type: string): Field => fieldIn(model, type, typeIn(model, type).title);

/** A field's default as SQL; `null` where it has none. */
export function defaultSql(field: Field, binds: Binds): string | null {
  if ((field.default ?? null) === null) return null;
  const parsed = parseValue(field.type, field.default);
  return parsed.ok ? binds.add(toColumn(field.type, parsed.value), bindType(field.type)) : null;
}
