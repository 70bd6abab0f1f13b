import { type Field, fieldIn, type Model, type RecordType, typeIn } from '@/core/model';
import { hasTrait, type Problem, type ProblemCode, type FileForms } from '@/core/values';

/** A column of a file and the field that it fills. */
export interface ImportColumn {
  /** The column's heading (CSV) or key (JSON Lines). */
  readonly column: string;
  /** The field's key, or `id`. */
  readonly field: string;
  /**
   * For a link: the field of the other type by which the record is found, or `id`. Left out: its title. A link of the other type is
   * told by the title of what it names. Several columns may fill one link: then all of them together find the record.
   */
  readonly foundBy?: string;
  /** An empty cell makes the field empty in a record that is there; else it leaves it as it is. */
  readonly clears?: boolean;
}

/** How a file is read and what becomes of its rows. */
export interface ImportPlan {
  readonly format: 'csv' | 'jsonLines';
  readonly encoding: 'utf-8' | 'utf-16le' | 'windows-1252';
  /** What stands between the cells of a CSV file. */
  readonly separator: ',' | ';' | '\t' | '|';
  readonly forms: FileForms;
  readonly columns: readonly ImportColumn[];
  /** Fields by which records that are there are found again and changed; none: every row makes a record. */
  readonly key: readonly string[];
  /** Whether a row whose key no record has makes one (left out), or is refused: then the file is one of corrections. */
  readonly notFound?: 'make' | 'refuse';
  /** Whether one refused row stops everything, or is left out. */
  readonly refused: 'stop' | 'leaveOut';
}

export const canFind = (field: Field): boolean => hasTrait(field.type.kind, 'found');
export const canBeKey = (field: Field): boolean => hasTrait(field.type.kind, 'key');

/** The field by which a link's record is found: the column's choice, or the other type's title; `id` for its id. */
export const foundBy = (model: Model, target: string, column: ImportColumn): string =>
  column.foundBy ?? typeIn(model, target).title;

/** The name of the rule that keeps a field, if one does: people and files can't fill it. */
export type KeeperName = (field: string) => string | undefined;

/** What is wrong with a plan, each with its place; empty when a file can be read by it. */
export function checkImportPlan(
  model: Model,
  keeperOf: KeeperName,
  type: RecordType,
  given: ImportPlan,
  /** Whether a live rule fills a link: then no column needs to. */
  isFilledByRule: (field: string) => boolean = () => false,
): Problem[] {
  const problems: Problem[] = [];
  const add = (place: string, message: string, code: ProblemCode = 'import.plan') =>
    void problems.push({ code, place, message });
  const filled = new Set<string>();
  for (const column of given.columns) {
    const { field: key } = column;
    const field = key === 'id' ? undefined : model.field(type.key, key);
    if (filled.has(key) && field?.type.kind !== 'link')
      add(key, `Two columns fill “${key}”. Leave one of them out.`);
    filled.add(key);
    if (key === 'id') continue;
    if (!field) {
      add(key, `${type.name} has no field “${key}”. Choose another for the column “${column.column}”.`);
      continue;
    }
    const keeper = keeperOf(key);
    if (keeper)
      add(
        key,
        `${field.name} is kept by the rule “${keeper}”, so it can’t be imported. Leave its column out.`,
        'edit.kept',
      );
    if (field.type.kind === 'serial' && !given.key.includes(key))
      add(
        key,
        `${field.name} is a serial number, which Oikon gives. Make it the key, to find records by it, or leave its column out.`,
        'edit.serial',
      );
    if (field.type.kind !== 'link') continue;
    const { target } = field.type;
    const by = foundBy(model, target, column);
    const found = by === 'id' ? null : model.field(target, by);
    if (by !== 'id' && !(found && canFind(found)))
      add(
        key,
        `Records can’t be found by “${by}”. Choose a text, number, rating, date, choice, link or serial field, or the id.`,
      );
    const beside = given.columns
      .filter((other) => other !== column && other.field === key)
      .map((other) => foundBy(model, target, other));
    if (by === 'id' ? beside.length > 0 : beside.includes(by))
      add(
        key,
        `Two columns find ${field.name} by the same, or one of them by id. Choose another field for one, or leave it out.`,
      );
  }
  if (filled.size === 0) add('columns', 'No column fills a field. Choose a field for at least one.');
  for (const key of given.key) {
    const field = key === 'id' ? null : model.field(type.key, key);
    if (!filled.has(key))
      add('key', `The key “${key}” is filled by no column. Choose its column, or another key.`);
    else if (key !== 'id' && !(field && canBeKey(field)))
      add('key', `Records can’t be told apart by “${field?.name ?? key}”. Choose another key.`);
    else if (field?.type.kind === 'link' && field.type.target === type.key)
      add(
        'key',
        `${field.name} names a record of the same type, so it can’t be part of the key. Choose another.`,
      );
  }
  if (given.key.length === 0)
    for (const { key, name, links, required } of type.openLinks ?? [])
      if (required && !links.some((link) => filled.has(link) || isFilledByRule(link)))
        add(key, `${name} is required. Choose the column that fills one of its links.`, 'edit.required');
  if (given.key.length === 0)
    for (const field of missingIn(type, keeperOf, filled).filter(({ key }) => !isFilledByRule(key)))
      add(field.key, `${field.name} is required. Choose the column that fills it.`, 'edit.required');
  return problems;
}

/** Required fields that neither a column nor a default fills. */
const missingIn = (type: RecordType, keeperOf: KeeperName, filled: ReadonlySet<string>): Field[] =>
  type.fields.filter(
    (field) =>
      field.required &&
      !filled.has(field.key) &&
      (field.default ?? null) === null &&
      keeperOf(field.key) === undefined,
  );

/** `Insured value (GBP)` → `insured value`: the unit or currency isn't part of the name. */
const plainName = (text: string): string =>
  text
    .normalize('NFC')
    .replace(/\s*\([^)]*\)\s*$/, '')
    .replace(/[_\s]+/g, ' ')
    .trim()
    .toLowerCase();

/** Columns whose headings are the names or keys of fields that people may fill. Several for one field: the first. */
export function proposeColumns(
  type: RecordType,
  keeperOf: KeeperName,
  headings: readonly string[],
): ImportColumn[] {
  const taken = new Set<string>();
  return headings.flatMap((column) => {
    const name = plainName(column);
    const field =
      name === 'id'
        ? { key: 'id' }
        : type.fields.find(
            ({ key, name: named }) =>
              plainName(named) === name || key.toLowerCase() === name.replaceAll(' ', ''),
          );
    if (!field || taken.has(field.key)) return [];
    if (keeperOf(field.key) !== undefined) return [];
    taken.add(field.key);
    return [{ column, field: field.key }];
  });
}

/** A key that is likely: the id, a unique field, or nothing. */
export function proposeKey(model: Model, type: string, columns: readonly ImportColumn[]): string[] {
  if (columns.some(({ field }) => field === 'id')) return ['id'];
  const unique = columns
    .map(({ field }) => fieldIn(model, type, field))
    .find((field) => field.unique || field.type.kind === 'serial');
  return unique ? [unique.key] : [];
}
