import { type Field, keyOf, type RecordType } from '@/core/model';
import {
  isCurrency,
  type Kind,
  LONG_TEXT_LENGTH,
  type Option,
  TEXT_LENGTH,
  type ValueType,
  itemAt,
  formInUse,
  readText,
  type TextForms,
} from '@/core/values';

/** A field that a column's values suggest. */
export interface ProposedField {
  readonly heading: string;
  /** Each different value that the column has, in the order in which they come. */
  readonly values: readonly string[];
  readonly field: Field;
  /** What a person should look at before the field is made, in words; empty when nothing is doubtful. */
  readonly doubts: readonly string[];
  readonly filled: number;
}

export interface ProposedType {
  readonly fields: readonly ProposedField[];
  /** Key of the field that could name a record. */
  readonly title: string | null;
  readonly forms: TextForms;
  readonly rows: number;
}

const MOST_OPTIONS = 12;
const FEWEST_PER_OPTION = 4;
const LONGEST_OPTION = 40;
/** Values that don't fit, of all, up to which a kind is still worth a word. */
const FEW = 0.1;

/** What columns may point to: types that there are or that are made with this one, and people. */
export interface Known {
  readonly timeZone: string;
  readonly types: readonly Pick<RecordType, 'key' | 'name'>[];
  /** Of types that are made from the same file: what one of their records alone is called. */
  readonly called?: ReadonlyMap<string, ReadonlySet<string>>;
  /** Names of people, in lower case. */
  readonly people?: ReadonlySet<string>;
}

/**
 * Fields for the columns of a file, from its headings and rows (all, or the first some thousands). A kind is proposed only where every
 * value reads as one; where most do, or where several readings are possible, the doubt is told.
 */
export function proposeType(
  headings: readonly string[],
  rows: readonly (readonly string[])[],
  known: Known,
): ProposedType {
  const { timeZone, types } = known;
  const columns = columnsOf(headings, rows);
  const forms = { ...formsOf(columns), timeZone };
  const taken = new Set(['id']);
  const fields = headings.map((heading, at): ProposedField => {
    const values = itemAt(columns, at);
    const { name, unit } = named(heading, at);
    const target = types.find((one) => sameName(one.name, name));
    const { type, doubts } = target
      ? linkTo(target)
      : (pointing(values, known) ?? typeOf(values, unit, forms, rows.length));
    const key = keyOf(name, taken);
    taken.add(key);
    return {
      heading,
      values: [...new Set(values)],
      field: { key, name, type },
      doubts,
      filled: values.length,
    };
  });
  return {
    fields,
    title: titleOf(fields, columns, rows.length),
    forms,
    rows: rows.length,
  };
}

const sameName = (a: string, b: string): boolean => a.toLowerCase() === b.toLowerCase();

/** What stands in each column, without what is empty. */
const columnsOf = (headings: readonly string[], rows: readonly (readonly string[])[]): string[][] =>
  headings.map((_, at) => rows.map((row) => (row[at] ?? '').trim()).filter((text) => text !== ''));

/** Headings that are units (SI and common ones) and are written as these. */
const UNITS: ReadonlySet<string> = new Set([
  ...['kg', 'g', 'mg', 't', 'km', 'm', 'cm', 'mm', 'm²', 'm³', 'l', 'ml', 'kWh', 'h', 'min', 's', 'pcs'],
]);

/** `Volume (m³)` → the name and the unit. */
function named(heading: string, at: number): { name: string; unit: string | null } {
  const match = /^(.*?)\s*\(([^()]{1,20})\)$/.exec(heading.trim());
  const plain = (match?.[1] || heading)
    .trim()
    .replace(/[_\s]+/g, ' ')
    .slice(0, 80);
  const capital = UNITS.has(plain) ? plain : plain.charAt(0).toUpperCase() + plain.slice(1);
  const name = plain === '' ? `Column ${at + 1}` : capital;
  return { name, unit: match?.[2] ?? null };
}

interface Proposal {
  readonly type: ValueType;
  readonly doubts: readonly string[];
}

const TEXT: ValueType = { kind: 'text' };

/** Different values from which on it is no accident that all of them are names of records. */
const FEWEST_NAMES = 2;

/** A link or a person, where every value is the name of one, and no value of one that has several. */
function pointing(values: readonly string[], { types, called, people }: Known): Proposal | null {
  const different = [...new Set(values)];
  if (people && different.length > 0 && different.every((value) => people.has(value.toLowerCase())))
    return { type: { kind: 'person' }, doubts: ['Every value is a person of the workspace.'] };
  if (different.length < FEWEST_NAMES) return null;
  for (const [key, names] of called ?? []) {
    const target = types.find((type) => type.key === key);
    if (target && different.every((value) => names.has(value)))
      return {
        type: { kind: 'link', target: key },
        doubts: [`Every value is the name of one ${target.name}: a link to it.`],
      };
  }
  return null;
}

const linkTo = ({ key, name }: Pick<RecordType, 'key' | 'name'>): Proposal => ({
  type: { kind: 'link', target: key },
  doubts: [`Named like the type ${name}: a link to it.`],
});

/** The settings of a kind that a person chose for a column instead: as the values suggest them. */
export function typeForKind(kind: Kind, values: readonly string[], forms: TextForms): ValueType {
  switch (kind) {
    case 'number':
      return numberType(values, null, forms);
    case 'money':
      return { kind, currency: currencyOf(values, null) ?? 'GBP' };
    case 'rating': {
      const read = values.map(Number).filter((value) => Number.isInteger(value) && Math.abs(value) <= 1000);
      const lowest = Math.min(1, ...read);
      return { kind, lowest, highest: Math.max(lowest + 1, 5, ...read) };
    }
    case 'choice':
      return { kind, options: optionsOf(values) };
    case 'choices':
      return {
        kind,
        options: optionsOf(values.flatMap((text) => text.split(/[;,|]/).map((part) => part.trim()))),
      };
    case 'link':
      return { kind, target: '' };
    case 'serial':
      return { kind, prefix: '', digits: 4 };
    default:
      return { kind };
  }
}

function optionsOf(values: readonly string[]): Option[] {
  const taken = new Set<string>();
  return [...new Set(values.filter((text) => text !== ''))].slice(0, 500).map((name) => {
    const key = keyOf(name, taken);
    taken.add(key);
    return { key, name };
  });
}

function typeOf(values: readonly string[], unit: string | null, forms: TextForms, rows: number): Proposal {
  if (values.length === 0)
    return { type: TEXT, doubts: ['Empty in every row that was read: what kind of value will it hold?'] };
  const distinct = new Set(values);
  const reads = (type: ValueType) => values.every((text) => readText(type, text, forms).ok);
  const currency = currencyOf(values, unit);
  if (currency !== null && reads({ kind: 'money', currency }))
    return { type: { kind: 'money', currency }, doubts: [] };
  const number = numberType(values, unit, forms);
  if (reads(number)) return numberProposal(values, distinct, number);
  if (reads({ kind: 'yesNo' })) return { type: { kind: 'yesNo' }, doubts: [] };
  if (reads({ kind: 'date' })) return { type: { kind: 'date' }, doubts: dateDoubts(values) };
  if (reads({ kind: 'dateTime' })) return { type: { kind: 'dateTime' }, doubts: dateDoubts(values) };
  const doubts = [
    ...nearly(values, number, 'number', forms),
    ...nearly(values, { kind: 'date' }, 'date', forms),
    ...(rows > values.length * 2 ? [`Filled in ${values.length} of ${rows} rows only.`] : []),
  ];
  const longest = Math.max(...values.map((text) => text.length));
  if (longest > TEXT_LENGTH || values.some((text) => text.includes('\n')))
    return {
      type: { kind: 'longText' },
      doubts:
        longest > LONG_TEXT_LENGTH
          ? [`One text has ${longest} characters; at most ${LONG_TEXT_LENGTH} fit.`]
          : [],
    };
  const isChoice =
    doubts.length === 0 &&
    distinct.size >= 2 &&
    distinct.size <= MOST_OPTIONS &&
    values.length >= distinct.size * FEWEST_PER_OPTION &&
    [...distinct].every((text) => text.length <= LONGEST_OPTION);
  if (!isChoice) return { type: TEXT, doubts };
  return {
    type: { kind: 'choice', options: optionsOf([...distinct]) },
    doubts: [`Only ${distinct.size} different values: a choice of these, unless others may come.`],
  };
}

function numberProposal(
  values: readonly string[],
  distinct: ReadonlySet<string>,
  number: ValueType,
): Proposal {
  if (values.some((text) => /^[+-]?0\d/.test(text)))
    return {
      type: TEXT,
      doubts: ['Digits with zeros at the front: a number would lose them, so it is text.'],
    };
  if ([...distinct].every((text) => text === '0' || text === '1'))
    return { type: number, doubts: ['Only 0 and 1: perhaps a yes/no.'] };
  if (values.every((text) => /^\d{9,}$/.test(text)))
    return { type: TEXT, doubts: ['Long numbers that nobody adds up, such as a telephone number: text.'] };
  return { type: number, doubts: [] };
}

function numberType(values: readonly string[], unit: string | null, { decimal }: TextForms): ValueType {
  const scale = Math.max(0, ...values.map((text) => text.split(decimal)[1]?.length ?? 0));
  return { kind: 'number', scale: Math.min(scale, 20), ...(unit === null ? {} : { unit }) };
}

/** The one currency of all amounts: in the heading, or beside each. */
function currencyOf(values: readonly string[], unit: string | null): string | null {
  if (unit !== null && isCurrency(unit)) return unit;
  const codes = new Set(
    values
      .map((text) => /^([A-Z]{3})\s*[\d.,-]|[\d.,]\s*([A-Z]{3})$/.exec(text))
      .map((match) => match?.[1] ?? match?.[2]),
  );
  const [code] = codes;
  return codes.size === 1 && code !== undefined && isCurrency(code) ? code : null;
}

function nearly(values: readonly string[], type: ValueType, kind: string, forms: TextForms): string[] {
  const others = values.filter((text) => !readText(type, text, forms).ok);
  if (others.length === 0 || others.length > values.length * FEW) return [];
  const shown = [...new Set(others)].slice(0, 3).map((text) => `“${text.slice(0, 40)}”`);
  return [
    `${values.length - others.length} of ${values.length} values read as a ${kind}; ${shown.join(', ')} ${others.length === 1 ? 'doesn’t' : 'don’t'}, so it is text.`,
  ];
}

const SLASHED = /^(\d{1,2})[-/.](\d{1,2})[-/.]\d{4}/;

/** Which way round days and months are can be told only from a day after the 12th. */
function dateDoubts(values: readonly string[]): string[] {
  const slashed = values.flatMap((text) => SLASHED.exec(text) ?? []);
  if (slashed.length === 0) return [];
  const isTold = values.some((text) => {
    const match = SLASHED.exec(text);
    return match !== null && (Number(match[1]) > 12 || Number(match[2]) > 12);
  });
  return isTold ? [] : ['Day and month could be the other way round: check the order of dates.'];
}

/** The forms in which more of the values make sense; where they don't tell, that of whoever reads the file. */
function formsOf(columns: readonly (readonly string[])[]): Omit<TextForms, 'timeZone'> {
  const all = columns.flat();
  const count = (pattern: RegExp) => all.filter((text) => pattern.test(text)).length;
  const commas = count(/^-?\d{1,3}(\.\d{3})*,\d{1,2}$|^-?\d+,\d{1,2}$/);
  const points = count(/^-?\d{1,3}(,\d{3})*\.\d+$|^-?\d+\.\d+$/);
  const slashed = all.map((text) => SLASHED.exec(text)).filter((match) => match !== null);
  const own = formInUse();
  return {
    decimal: commas === points ? own.decimal : commas > points ? ',' : '.',
    dates: slashed.some((match) => Number(match[2]) > 12)
      ? 'monthFirst'
      : slashed.some((match) => Number(match[1]) > 12)
        ? 'dayFirst'
        : own.dates,
  };
}

/** The first text that every row has, best one that is never the same twice. */
function titleOf(
  fields: readonly ProposedField[],
  columns: readonly (readonly string[])[],
  rows: number,
): string | null {
  const full = fields.filter(
    ({ field, filled }) => field.type.kind === 'text' && filled === rows && rows > 0,
  );
  const distinct = full.find(({ heading }) => {
    const values = itemAt(
      columns,
      fields.findIndex((one) => one.heading === heading),
    );
    return new Set(values).size === values.length;
  });
  return (distinct ?? full[0])?.field.key ?? null;
}

/** Names that stand once: those that stand several times tell nothing apart. */
function onlyOnce(names: readonly string[]): ReadonlySet<string> {
  const [seen, again] = [new Set<string>(), new Set<string>()];
  for (const name of names) (seen.has(name) ? again : seen).add(name);
  return new Set([...seen].filter((name) => !again.has(name)));
}

/** A table of a file: what it is called, and its rows under their headings. */
export interface NamedTable {
  /** Stands for the type that is made of it, as the target of links, until that has a key. */
  readonly key: string;
  /** What one of its records is called. */
  readonly name: string;
  readonly headings: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

/** Types for tables that come together: a column whose heading names one of them, or whose values are names of its records, is a link to it. */
export function proposeTypes(tables: readonly NamedTable[], known: Known): ProposedType[] {
  const types = [...known.types, ...tables.map(({ key, name }) => ({ key, name }))];
  const titled = tables.map(({ key, headings, rows }) => {
    const { fields, title } = proposeType(headings, rows, known);
    const at = fields.findIndex(({ field }) => field.key === title);
    return { key, at, names: at === -1 ? [] : rows.map((row) => (row[at] ?? '').trim()) };
  });
  const called = new Map(titled.map(({ key, names }) => [key, onlyOnce(names)]));
  return tables.map(({ key, headings, rows }, place) => {
    const own = itemAt(titled, place).at;
    const proposal = proposeType(headings, rows, { ...known, types, called });
    if (own === -1) return proposal;
    const plain = itemAt(proposeType(headings, rows, known).fields, own);
    const withPlain = proposal.fields.map((one, at) => (at === own ? plain : one));
    // What names its own records is no link, unless its heading says so and another text names them as well.
    const { type, name } = itemAt(proposal.fields, own).field;
    const isNamedSo = tables.some((other) => other.key !== key && sameName(other.name, name));
    const fields = type.kind === 'link' && isNamedSo ? proposal.fields : withPlain;
    const title = titleOf(fields, columnsOf(headings, rows), rows.length);
    return title === null
      ? { ...proposal, fields: withPlain, title: plain.field.key }
      : { ...proposal, fields, title };
  });
}
