import { emptyRow, type Row, type WireEdit } from '@/core/engine';
import { type Field, fieldIn, type Model, openLinkOf, typeIn } from '@/core/model';
import { Random } from '@/core/random';
import { certain, firstIn, parseValue, shiftDay, type Value, type WireValue } from '@/core/values';
import { recordToWire } from '@/core/verify/family/family';
import { type InputDomain, MADE_UP_PEOPLE } from './input-domain';
import type { Forgets } from '@/core/verify/rehearsal/run-through';

/** Made-up records, and edits of them run by run. */
export interface GeneratedFamily {
  readonly rows: readonly Row[];
  readonly runs: readonly (readonly WireEdit[])[];
}

const idOf = (number: number): string => `00000000-0000-7000-8001-${number.toString(16).padStart(12, '0')}`;

/** Most runs of a case that is made from another. */
const MOST_RUNS = 3;

/** Ids of records that edits make. */
const FIRST_NEW = 0xe000;

/** How often a further case is made from one in which the rule did something. */
const FROM_STIRRING = 0.6;

/**
 * Made-up records on the domain of a rule, with edits: the same for the same number. The lower the number the fewer they are; their values are
 * those at which something may turn. From cases in which the rule did something others are made, a little changed.
 */
export function generateFamily(
  model: Model,
  domain: InputDomain,
  number: number,
  stirring: readonly GeneratedFamily[] = [],
): GeneratedFamily {
  const random = new Random(number * 7_919 + 17);
  const making = new Making(model, domain, random);
  if (stirring.length > 0 && random.chance(FROM_STIRRING)) return making.changed(random.pick(stirring));
  const size = Math.min(4, 2 + Math.floor(number / 60));
  for (const [at, type] of domain.types.entries()) {
    const count = at === 0 ? random.whole(1, 2) : random.whole(1, size);
    for (let made = 0; made < count; made += 1) making.add(type);
  }
  making.addRates();
  making.linkAll();
  return { rows: [...making.rows.values()], runs: making.runs() };
}

/** The records of a case, with one edit of a sort in place of what is done there; `null` where there is none. */
export function withEditOf(
  model: Model,
  domain: InputDomain,
  { rows }: GeneratedFamily,
  sort: Forgets,
  number: number,
): GeneratedFamily | null {
  const making = new Making(model, domain, new Random(number * 104_729 + 5));
  making.take(rows);
  const edit = making.editOf(sort);
  return edit && { rows, runs: [[edit]] };
}

class Making {
  readonly rows = new Map<string, Row>();
  readonly #ofType = new Map<string, string[]>();
  readonly #fields = new Map<string, InputDomain['fields'][number]>();
  #next = 1;

  constructor(
    private readonly model: Model,
    private readonly domain: InputDomain,
    private readonly random: Random,
  ) {
    for (const field of domain.fields) this.#fields.set(`${field.type}.${field.field}`, field);
  }

  /** A record with a title and what its type asks for; links are filled once all records are there. */
  add(type: string, given: Readonly<Record<string, WireValue>> = {}): Row {
    const ids = this.ofType(type);
    const id = idOf(this.#next);
    this.#next += 1;
    const values: Record<string, Value> = { ...emptyRow(this.model, { type, id }).values };
    const { fields, title, name } = typeIn(this.model, type);
    for (const field of fields) {
      const wire =
        given[field.key] ??
        (field.key === title && !this.#fields.has(`${type}.${title}`)
          ? `${name} ${letterOf(ids.length)}`
          : this.valueFor(type, field, ids.length));
      const read = parseValue(field.type, wire);
      if (read.ok) values[field.key] = read.value;
    }
    const row: Row = { ...emptyRow(this.model, { type, id }), values };
    this.rows.set(id, row);
    ids.push(id);
    return row;
  }

  private ofType(type: string): string[] {
    let ids = this.#ofType.get(type);
    if (!ids) this.#ofType.set(type, (ids = []));
    return ids;
  }

  private valueFor(type: string, field: Field, number: number): WireValue {
    const known = this.#fields.get(`${type}.${field.key}`);
    if (known) return this.random.pick(known.values);
    if (field.type.kind === 'serial') return String(number + 1);
    if (field.default !== undefined) return field.default;
    return field.required ? needed(field, number) : null;
  }

  /** Rates into the currencies that are looked up, of two days. */
  addRates(): void {
    const { rates, settledDay } = this.model;
    if (!rates) return;
    for (const into of this.domain.into)
      for (const from of ['EUR', 'USD', 'GBP'])
        for (const [days, rate] of [
          [-30, '0.5'],
          [-2, '0.8'],
        ] as const)
          if (from !== into)
            this.add(rates.type, {
              ...{ [rates.pair]: `${from}/${into}`, [rates.rate]: rate },
              [rates.day]: shiftDay(settledDay ?? '2027-01-01', days),
            });
  }

  /** Fills links: those on the domain at random, others where they must be there. */
  linkAll(): void {
    for (const [id, row] of [...this.rows])
      this.rows.set(id, { ...row, values: { ...row.values, ...this.linksOf(row.type, id) } });
  }

  private linksOf(type: string, id: string): Record<string, string> {
    const definition = typeIn(this.model, type);
    const links: Record<string, string> = {};
    const isOnGround = (link: string) =>
      this.domain.links.some((one) => one.type === type && one.link === link);
    for (const field of definition.fields) {
      if (field.type.kind !== 'link') continue;
      const open = openLinkOf(definition, field.key);
      if (open) continue;
      const isNeeded = field.required === true || definition.bridge === true;
      if (!isNeeded && (!isOnGround(field.key) || this.random.chance(0.15))) continue;
      const to = this.parentFor(field.type.target, type, id, Object.values(links));
      if (to !== null) links[field.key] = to;
    }
    for (const open of definition.openLinks ?? []) {
      const offered = open.links.filter(isOnGround);
      const link = offered.length > 0 ? this.random.pick(offered) : open.required ? open.links[0] : undefined;
      const field = link === undefined ? undefined : fieldIn(this.model, type, link);
      if (field?.type.kind !== 'link' || (!open.required && this.random.chance(0.15))) continue;
      const to = this.parentFor(field.type.target, type, id, []);
      if (to !== null) links[certain(link)] = to;
    }
    return links;
  }

  /** A record that a link may name: in a hierarchy one that was made before, so that none hangs under itself. */
  private parentFor(target: string, type: string, id: string, taken: readonly string[]): string | null {
    const ids = this.ofType(target);
    const free = ids.filter((one) => !taken.includes(one));
    const offered = target === type ? free.slice(0, ids.indexOf(id)) : free;
    if (offered.length > 0) return this.random.pick(offered);
    return target === type ? null : this.add(target).id;
  }

  runs(): (readonly WireEdit[])[] {
    const count = this.random.whole(0, 9);
    if (count < 3) return [];
    const first = this.edit();
    if (count < 8) return first ? [[first]] : [];
    const second = this.edit();
    const edits = [first, second].filter((one) => one !== null);
    const isOneRun = edits[0]?.id !== edits[1]?.id && this.random.chance(0.5);
    return isOneRun ? [edits] : edits.map((edit) => [edit]);
  }

  /** Takes records that were made up before. */
  take(rows: readonly Row[]): void {
    for (const row of rows) {
      this.rows.set(row.id, row);
      this.ofType(row.type).push(row.id);
    }
    this.#next = rows.length + 100;
  }

  /** A case once a few things in it are otherwise: values, links, or what is done. */
  changed({ rows, runs }: GeneratedFamily): GeneratedFamily {
    this.take(rows);
    // What is done in it is left in part, so that cases made from cases don't grow alike.
    let to: GeneratedFamily['runs'] = runs.slice(0, this.random.whole(0, runs.length));
    for (let left = this.random.whole(1, 3); left > 0; left -= 1) to = this.changedOnce(to);
    return { rows: [...this.rows.values()], runs: to };
  }

  private changedOnce(runs: GeneratedFamily['runs']): GeneratedFamily['runs'] {
    if (this.random.chance(0.5) && runs.length < MOST_RUNS) {
      const edit = this.random.chance(0.5) ? this.back(runs) : this.edit();
      return edit ? [...runs, [edit]] : runs;
    }
    const edit = this.edit();
    const row = edit?.kind === 'edit' ? this.rows.get(certain(edit.id)) : undefined;
    if (!edit || !row) return runs;
    const read = Object.entries(edit.values ?? {}).flatMap(([key, wire]) => {
      const parsed = parseValue(fieldIn(this.model, row.type, key).type, wire);
      return parsed.ok && this.mayBe(row, key, parsed.value) ? [[key, parsed.value] as const] : [];
    });
    this.rows.set(row.id, { ...row, values: { ...row.values, ...Object.fromEntries(read) } });
    return runs;
  }

  /** What an earlier edit did is taken back. */
  private back(runs: GeneratedFamily['runs']): WireEdit | null {
    const edits = runs.flat();
    if (edits.length === 0) return null;
    const { kind, type, id, values = {} } = this.random.pick(edits);
    if (kind === 'delete') return { kind: 'restore', type, id };
    const row = this.rows.get(certain(id));
    if (kind !== 'edit' || !row) return { kind: 'delete', type, id };
    const was = wireOf(this.model, row);
    return {
      ...{ kind, type, id },
      values: Object.fromEntries(Object.keys(values).map((key) => [key, was[key] ?? null])),
    };
  }

  /** Links stay such that no record hangs under itself, and what must be there stays. */
  private mayBe({ type, id }: Row, key: string, value: Value): boolean {
    const field = fieldIn(this.model, type, key);
    const { bridge, openLinks = [] } = typeIn(this.model, type);
    if (field.type.kind !== 'link') return value !== null || field.required !== true;
    if (openLinks.some(({ links }) => links.includes(key))) return false;
    if (value === null) return field.required !== true && bridge !== true;
    const ids = this.ofType(type);
    return field.type.target !== type || ids.indexOf(String(value)) < ids.indexOf(id);
  }

  private edit(): WireEdit | null {
    const { type, id } = this.anyRow();
    const roll = this.random.next();
    if (roll < 0.15) return { kind: 'delete', type, id };
    if (roll < 0.3) return this.move(this.random.chance(0.3));
    if (roll < 0.4) return this.creation(type);
    return this.entry(false) ?? this.move(false);
  }

  /** An edit of a sort that a script may forget; `null` where the domain has none. */
  editOf(sort: Forgets): WireEdit | null {
    const { type, id } = this.anyRow();
    if (sort === 'deletions') return { kind: 'delete', type, id };
    return sort === 'moves' ? this.move(false) : this.entry(true);
  }

  private anyRow(): Row {
    return this.random.pick([...this.rows.values()].filter(({ type }) => this.domain.types.includes(type)));
  }

  /** A record gets another parent, or none. */
  private move(isCleared: boolean): WireEdit | null {
    const rows = [...this.rows.values()].filter((row) =>
      this.domain.links.some(({ type }) => type === row.type),
    );
    if (rows.length === 0) return null;
    const row = this.random.pick(rows);
    const { link } = this.random.pick(this.domain.links.filter(({ type }) => type === row.type));
    const field = fieldIn(this.model, row.type, link);
    if (field.type.kind !== 'link') return null;
    const offered = this.ofType(field.type.target).filter(
      (one) => one !== row.id && one !== row.values[link],
    );
    const to = isCleared || offered.length === 0 ? null : this.random.pick(offered);
    return { kind: 'edit', type: row.type, id: row.id, values: { [link]: to } };
  }

  /** A field on the domain gets a value, or is emptied. */
  private entry(isEmptied: boolean): WireEdit | null {
    const rows = [...this.rows.values()].filter((row) =>
      this.domain.fields.some(({ type }) => type === row.type),
    );
    if (rows.length === 0) return null;
    const { type, id } = this.random.pick(rows);
    const { field, values } = this.random.pick(this.domain.fields.filter((one) => one.type === type));
    return { kind: 'edit', type, id, values: { [field]: isEmptied ? null : this.random.pick(values) } };
  }

  private creation(type: string): WireEdit {
    const made = this.add(type);
    this.rows.delete(made.id);
    const values = { ...made.values, ...this.linksOf(type, made.id) };
    this.ofType(type).pop();
    const given = Object.entries(wireOf(this.model, { ...made, values })).filter(
      ([key, value]) => value !== null && fieldIn(this.model, type, key).type.kind !== 'serial',
    );
    return { kind: 'create', type, id: idOf(FIRST_NEW + this.#next), values: Object.fromEntries(given) };
  }
}

const letterOf = (number: number): string => String.fromCharCode(65 + (number % 26));

const wireOf = (model: Model, row: Row): Readonly<Record<string, WireValue>> =>
  recordToWire(model, row).values;

/** Something for a field that must be filled, each record its own. */
function needed({ type }: Field, number: number): WireValue {
  switch (type.kind) {
    case 'text':
    case 'longText':
      return `${letterOf(number)}${number + 1}`;
    case 'number':
      return String(number + 1);
    case 'money':
      return { amount: String(number + 1), currency: type.currency };
    case 'anyMoney':
      return { amount: String(number + 1), currency: 'EUR' };
    case 'rating':
      return String(type.lowest);
    case 'yesNo':
      return false;
    case 'date':
      return shiftDay('2027-01-01', number);
    case 'dateTime':
      return `${shiftDay('2027-01-01', number)}T09:00:00.000Z`;
    case 'choice':
      return type.options[0]?.key ?? null;
    case 'choices':
      return type.options.slice(0, 1).map(({ key }) => key);
    case 'person':
      return firstIn(Object.keys(MADE_UP_PEOPLE));
    case 'serial':
    case 'link':
      return null;
  }
}
