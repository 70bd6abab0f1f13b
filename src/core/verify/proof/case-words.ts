import type { Row, WireEdit } from '@/core/engine';
import { fieldIn, type Model, typeIn } from '@/core/model';
import { displayValue, type ValueType, type WireValue } from '@/core/values';
import { type RuleEffect, cellAt } from './rule-effect';
import { wordsOfValue } from '@/core/verify/family/value-words';
import type { Expectation } from '@/core/verify/proof/proof';

export type Titles = ReadonlyMap<string, string>;

interface Titled {
  readonly rows: readonly {
    readonly type: string;
    readonly id: string;
    readonly values: Readonly<Record<string, unknown>>;
  }[];
  readonly runs: readonly (readonly WireEdit[])[];
}

/** What records are called, and those that their edits make; beside names that are known. */
export function titlesIn(
  model: Model,
  { rows, runs }: Titled,
  names: Readonly<Record<string, string>>,
): Titles {
  const titles = new Map(Object.entries(names));
  for (const { type, id, values } of rows)
    titles.set(id, String(values[typeIn(model, type).title] ?? typeIn(model, type).name));
  for (const { type, id, values } of runs.flat())
    if (id !== undefined && !titles.has(id))
      titles.set(id, String(values?.[typeIn(model, type).title] ?? `the new ${typeIn(model, type).name}`));
  return titles;
}

/** `Loan A: Stage Agreed, Exhibition A`. */
export function recordWords(model: Model, row: Row, titles: Titles): string {
  const { fields, title } = typeIn(model, row.type);
  const values = fields.flatMap(({ key, name, type }) => {
    const value = row.values[key] ?? null;
    if (value === null || key === title) return [];
    return [`${name} ${displayValue(type, value, (id) => titles.get(id))}`];
  });
  return `${titles.get(row.id)}${values.length > 0 ? `: ${values.join(', ')}` : ''}`;
}

/** `Loan A gets Stage Agreed`. */
export function editWords(
  model: Model,
  { kind, type, id = '', values = {} }: WireEdit,
  titles: Titles,
): string {
  const title = titles.get(id) ?? typeIn(model, type).name;
  if (kind === 'delete') return `${title} is deleted`;
  if (kind === 'restore') return `${title} is restored`;
  const set = Object.entries(values).filter(([key]) => kind === 'edit' || key !== typeIn(model, type).title);
  const words = set.map(([key, value]) => {
    const { name, type: of } = fieldIn(model, type, key);
    return `${name} ${wordsOfCell(of, value as WireValue, titles)}`;
  });
  return kind === 'create'
    ? `${title} is made${words.length > 0 ? `: ${words.join(', ')}` : ''}`
    : `${title} gets ${words.join(', ')}`;
}

/** A value in words, `empty` where there is none. */
export const wordsOfCell = (type: ValueType, value: WireValue, titles: Titles): string =>
  value === null ? 'empty' : wordsOfValue(type, value, (id) => titles.get(id));

interface Giving {
  readonly model: Model;
  readonly titles: Titles;
  /** What another form of the rule would give. */
  readonly would: RuleEffect | null;
  /** Nothing is done to the records: they only stand there. */
  readonly isAtRest: boolean;
}

/** `Insured total of Exhibition A becomes 40.00 GBP, not 140.00 GBP`. */
export function givesWords(one: Expectation, { model, titles, would, isAtRest }: Giving): string {
  if (one.kind === 'isRefused') return 'It is refused';
  if ('field' in one) {
    const { name, type } = fieldIn(model, one.type, one.field);
    // What a rule makes has no title yet.
    const made = (of: string) => `the new ${typeIn(model, of).name}`;
    const known: Titles =
      type.kind === 'link' && typeof one.value === 'string' && !titles.has(one.value)
        ? new Map([...titles, [one.value, made(type.target)]])
        : titles;
    const other = would?.cells.get(cellAt(one.id, one.field))?.is ?? null;
    const verb = isAtRest ? 'is' : one.kind;
    const instead = would ? `, not ${wordsOfCell(type, other, titles)}` : '';
    return `${name} of ${titles.get(one.id) ?? made(one.type)} ${verb} ${wordsOfCell(type, one.value, known)}${instead}`;
  }
  const title = titles.get(one.source) ?? 'a record';
  if (one.kind === 'isNotMade') return `Nothing is made for ${title}`;
  if (one.kind !== 'isMade')
    return `${one.kind === 'isProposed' ? 'A proposal' : 'No proposal'} for ${title} waits`;
  const count = one.times === undefined ? 'One' : String(one.times);
  const isOther =
    Object.keys(one.values).length > 0 && would ? ', which holds other values than it would' : '';
  return `${count} is made for ${title}${isOther}`;
}
