import { type NamedTable, proposeTypes, type ProposedField, type ProposedType } from '@/core/intake';
import { type Field, keyOf, type ModelChange, type RecordType } from '@/core/model';
import { firstIn, itemAt, type ValueType } from '@/core/values';
import { pluralOf, singularOf } from '@/ui/kit/values/plurals';

/** A column's field while it is looked at. */
export interface DraftedColumn {
  readonly proposed: ProposedField;
  readonly isWanted: boolean;
  readonly name: string;
  readonly type: ValueType;
}

/** A type that is made of a table, while it is looked at. */
export interface DraftedType {
  /** Stands for it as the target of links, until it has a key. */
  readonly id: string;
  /** What the table is called. */
  readonly called: string;
  readonly isWanted: boolean;
  readonly name: string;
  readonly plural: string;
  readonly columns: readonly DraftedColumn[];
  /** The heading of the text by which records are named. */
  readonly title: string | null;
  readonly proposal: ProposedType;
}

/** A table as it was read. */
export interface ReadTable {
  readonly called: string;
  readonly headings: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

/** `touring loans` → `Touring loan`, `Touring loans`. */
function namesFrom(called: string): { name: string; plural: string } {
  const plain = called.replace(/[_-]+/g, ' ').trim().slice(0, 60);
  const name = singularOf(plain.charAt(0).toUpperCase() + plain.slice(1));
  return { name, plural: pluralOf(name) };
}

export interface AlreadyThere {
  readonly types: readonly RecordType[];
  readonly people: ReadonlySet<string>;
  readonly timeZone: string;
}

/** What tables suggest, each as a type of its own. No key of a type has a blank, as these do. */
export function draftsOf(tables: readonly ReadTable[], known: AlreadyThere): readonly DraftedType[] {
  const named = tables.map((table, at): NamedTable & { plural: string } => ({
    ...{ key: `table ${at}`, headings: table.headings, rows: table.rows },
    ...namesFrom(table.called),
  }));
  return proposeTypes(named, known).map((proposal, at): DraftedType => {
    const { key, name, plural } = itemAt(named, at);
    return {
      ...{ id: key, called: itemAt(tables, at).called, isWanted: true, name, plural, proposal },
      columns: proposal.fields.map((proposed) => ({
        ...{ proposed, isWanted: true, name: proposed.field.name, type: proposed.field.type },
      })),
      title: proposal.fields.find(({ field }) => field.key === proposal.title)?.heading ?? null,
    };
  });
}

/** Columns that can name records. */
export const textsOf = ({ columns }: DraftedType): readonly DraftedColumn[] =>
  columns.filter(({ isWanted, type }) => isWanted && type.kind === 'text');

/** What keeps drafts from being made, in words for whoever looks at them. */
export function openQuestions(
  drafts: readonly DraftedType[],
): readonly { readonly id: string; readonly message: string }[] {
  const wanted = drafts.filter(({ isWanted }) => isWanted);
  if (wanted.length === 0) return [{ id: '', message: 'Choose at least one of the tables.' }];
  return wanted.flatMap((draft) => {
    const { id, called, name, columns } = draft;
    const of = drafts.length > 1 ? `${called}: ` : '';
    const lost = columns.find(
      ({ isWanted, type }) =>
        isWanted && type.kind === 'link' && drafts.some((one) => one.id === type.target && !one.isWanted),
    );
    return [
      ...(name.trim() === '' ? [{ id, message: `${of}Say what one of them is called.` }] : []),
      ...(textsOf(draft).some(({ proposed }) => proposed.heading === draft.title)
        ? []
        : [{ id, message: `${of}Choose the text by which records are named.` }]),
      ...(lost
        ? [
            {
              id,
              message: `${of}${lost.name} links to a table that is left out. Choose another kind for it.`,
            },
          ]
        : []),
    ];
  });
}

/** A type as it will be, and which column fills which of its fields. */
export interface MadeType {
  readonly draft: DraftedType;
  readonly key: string;
  readonly columns: readonly { readonly column: string; readonly field: string }[];
}

export interface Making {
  /** In the order in which their rows come in: what is linked to before what links. */
  readonly made: readonly MadeType[];
  readonly changes: readonly ModelChange[];
}

/** The changes of the model that make the wanted types; a link to one that is made later is added after both are there. */
export function makingOf(drafts: readonly DraftedType[], types: readonly RecordType[]): Making {
  const wanted = inOrder(drafts.filter(({ isWanted }) => isWanted));
  const taken = new Set(types.map(({ key }) => key));
  const keys = new Map<string, string>();
  for (const { id, name } of wanted) {
    const key = keyOf(name.trim(), taken);
    taken.add(key);
    keys.set(id, key);
  }
  const there = new Set(types.map(({ key }) => key));
  const later: ModelChange[] = [];
  const made: MadeType[] = [];
  const adding = wanted.map((draft): ModelChange => {
    const key = keys.get(draft.id) as string;
    there.add(key);
    const fields = fieldsOf(draft, keys);
    made.push({ draft, key, columns: fields.map(({ column, field }) => ({ column, field: field.key })) });
    const canBe = (field: Field) => field.type.kind !== 'link' || there.has(field.type.target);
    for (const { field } of fields) if (!canBe(field)) later.push({ kind: 'addField', type: key, field });
    const title = fields.find(({ column }) => column === draft.title)?.field.key ?? '';
    return {
      kind: 'addType',
      type: {
        ...{
          key,
          name: draft.name.trim(),
          plural: draft.plural.trim() || pluralOf(draft.name.trim()),
          title,
        },
        fields: fields
          .map(({ field }) => (field.key === title ? { ...field, required: true } : field))
          .filter(canBe),
      },
    };
  });
  return { made, changes: [...adding, ...later] };
}

/** What is linked to before what links; in a circle as they stand. */
function inOrder(drafts: readonly DraftedType[]): readonly DraftedType[] {
  const done: DraftedType[] = [];
  const isFree = (draft: DraftedType) =>
    draft.columns.every(
      ({ isWanted, type }) =>
        !isWanted ||
        type.kind !== 'link' ||
        type.target === draft.id ||
        !drafts.some(({ id }) => id === type.target) ||
        done.some(({ id }) => id === type.target),
    );
  for (let left = drafts; left.length > 0; left = left.filter((draft) => !done.includes(draft)))
    done.push(left.find(isFree) ?? firstIn(left));
  return done;
}

/** The fields of the wanted columns, with keys of their names. */
function fieldsOf(
  { columns, plural }: DraftedType,
  keys: ReadonlyMap<string, string>,
): { readonly column: string; readonly field: Field }[] {
  const taken = new Set(['id']);
  const linked = new Set<string>();
  const several = plural.trim() || 'Records';
  return columns
    .filter(({ isWanted }) => isWanted)
    .map(({ proposed, name, type }) => {
      const key = keyOf(name, taken);
      taken.add(key);
      if (type.kind !== 'link') return { column: proposed.heading, field: { key, name: name.trim(), type } };
      // Two links to one type are told apart at its end too.
      const otherEnd = linked.has(type.target) ? `${several} by ${name.trim().toLowerCase()}` : several;
      linked.add(type.target);
      const field: Field = {
        ...{ key, name: name.trim(), otherEnd, whenParentGoes: 'refuse' },
        type: { kind: 'link', target: keys.get(type.target) ?? type.target },
      };
      return { column: proposed.heading, field };
    });
}
