import { readFeel } from '@/core/expression';
import { arrive, type Field, fieldIn, type LinkRef, type Model, type Step } from '@/core/model';
import { buildPlan } from '@/core/plan';
import {
  type CompiledRule,
  type FieldRef,
  reacts,
  readsField,
  type Rule,
  type RuleDefinition,
  targetsOf,
} from '@/core/rules';
import {
  dayBegins,
  parseValue,
  type RelativeDay,
  relativeDay,
  relativeMoment,
  shiftDay,
  toWire,
  type ValueType,
  type WireValue,
} from '@/core/values';
import { movedByOne } from './vary-expression';

/** A field that may be given values, with those at which something may turn. */
export interface DomainField extends FieldRef {
  readonly values: readonly WireValue[];
}

/** What a rule hangs on, as far as records are concerned: the domain of values from which cases for it are made up. */
export interface InputDomain {
  /** The type of the rule's records first. */
  readonly types: readonly string[];
  readonly links: readonly LinkRef[];
  readonly fields: readonly DomainField[];
  /** Currencies into which rates are looked up. */
  readonly into: readonly string[];
  /** The rules that take part: the rule itself, and those that write what it reads, at any distance. */
  readonly rules: readonly Rule[];
}

/** Most values that are tried in one field. */
const MOST_VALUES = 14;

/**
 * The input domain of a rule among others. `beside` are other forms of the rule: what they name counts too, so that cases can tell them apart. The
 * rule must fit the model.
 */
export function inputDomainOf(
  model: Model,
  rules: readonly Rule[],
  rule: Rule,
  beside: readonly RuleDefinition[] = [],
): InputDomain {
  const forms = beside.map((definition): Rule => ({ ...rule, definition }));
  const taking = [rule, ...upstreamOf(model, rules, [rule, ...forms])];
  const all = [...taking, ...forms];
  const found = new Found(model);
  const into = new Set<string>();
  found.addType(rule.definition.type);
  for (const one of all) {
    for (const part of partsOf(model, one)) {
      for (const read of part.reads) {
        found.addPath(part.writes.type, read.path);
        found.addField(read);
      }
      for (const read of part.among?.reads ?? []) found.addField(read);
      for (const currency of part.rates?.into ?? []) into.add(currency);
    }
    found.addWritten(one.definition);
  }
  const { plan } = buildPlan(model, taking);
  const constants = all.flatMap(({ definition }) => constantsIn(model, found.types, definition));
  return {
    types: found.types,
    links: found.links,
    fields: found.fields
      .filter((ref) => !plan.keeper(ref))
      .map((ref) => ({ ...ref, values: valuesFor(model, fieldIn(model, ref.type, ref.field), constants) })),
    into: [...into],
    rules: taking,
  };
}

type Reading = Pick<CompiledRule, 'writes' | 'reads' | 'rates' | 'among'>;

const partsOf = (model: Model, rule: Rule): readonly Reading[] => buildPlan(model, [rule]).plan.turns;

/** The rules that write what a rule reads in any of its forms, at any distance. */
function upstreamOf(model: Model, rules: readonly Rule[], forms: readonly Rule[]): Rule[] {
  const reading = [...forms];
  const upstream: Rule[] = [];
  for (const one of reading) {
    const parts = partsOf(model, one);
    for (const other of rules) {
      if (reading.some(({ id }) => id === other.id)) continue;
      const writes = targetsOf(model, other.definition);
      if (!parts.some((part) => writes.some((ref) => readsField(part, ref)))) continue;
      reading.push(other);
      upstream.push(other);
    }
  }
  return upstream;
}

/** Collects types, links and fields, each once. */
class Found {
  readonly types: string[] = [];
  readonly links: LinkRef[] = [];
  readonly fields: FieldRef[] = [];

  constructor(private readonly model: Model) {}

  addType(type: string): void {
    if (!this.types.includes(type)) this.types.push(type);
  }

  addLink({ type, link }: LinkRef): void {
    const field = this.model.field(type, link);
    if (field?.type.kind !== 'link') return;
    if (!this.links.some((one) => one.type === type && one.link === link)) this.links.push({ type, link });
    this.addType(type);
    this.addType(field.type.target);
  }

  addField(ref: FieldRef): void {
    const field = this.model.field(ref.type, ref.field);
    if (!field || field.type.kind === 'serial') return;
    if (field.type.kind === 'link') this.addLink({ type: ref.type, link: ref.field });
    else if (!this.fields.some((one) => one.type === ref.type && one.field === ref.field))
      this.fields.push({ type: ref.type, field: ref.field });
    this.addType(ref.type);
  }

  addPath(from: string, path: readonly Step[]): void {
    for (const [at, step] of path.entries()) {
      const type = step.direction === 'down' ? step.type : arrive(this.model, from, path.slice(0, at));
      if (type !== undefined) this.addLink({ type, link: step.link });
    }
  }

  /** What people may enter in the fields that it writes, and the ways that it goes, where it isn't told by what it reads. */
  addWritten(definition: RuleDefinition): void {
    const { kind, type } = definition;
    if (kind === 'cascade') {
      this.addPath(type, definition.route);
      if (definition.moment !== 'inStep')
        for (const ref of targetsOf(this.model, definition)) this.addField(ref);
    }
    if (kind === 'link' || (kind === 'rollUp' && reacts(definition)))
      for (const ref of targetsOf(this.model, definition)) this.addField(ref);
    if (kind === 'create') this.addType(definition.makes);
  }
}

/** The constants that a definition names, whatever they are of, and the days that it counts from today. */
function constantsIn(model: Model, types: readonly string[], definition: RuleDefinition): WireValue[] {
  const found: WireValue[] = [];
  const walk = (node: unknown): void => {
    if (typeof node === 'string' || typeof node === 'number' || typeof node === 'boolean') found.push(node);
    if (typeof node !== 'object' || node === null) return;
    if ('amount' in node && 'currency' in node) found.push(node as WireValue);
    if ('kind' in node && node.kind === 'feel' && 'text' in node)
      for (const type of types) {
        const read = readFeel(model, type, String(node.text));
        if (read.ok && read.value.expression.kind !== 'feel') return walk(read.value.expression);
      }
    if ('kind' in node && node.kind === 'day' && model.settledDay !== null) {
      found.push(...relativesIn(model, model.settledDay, node as unknown as RelativeDay));
    }
    if ('kind' in node && node.kind === 'selection' && 'selection' in node)
      walk(model.selection(String(node.selection))?.condition);
    for (const part of Object.values(node)) walk(part);
  };
  walk(definition);
  return found;
}

/** The day that one counts from today, and for moments when it begins and ends; or the moment, where hours are counted. */
function relativesIn({ timeZone }: Model, settledDay: string, given: RelativeDay): string[] {
  if (given.unit === 'hour') {
    const moment = timeZone === null ? null : relativeMoment(timeZone, settledDay, given);
    return moment?.ok ? [moment.value] : [];
  }
  const day = relativeDay(settledDay, given);
  if (!day.ok) return [];
  const next = shiftDay(day.value, 1);
  const begins = (date: string) =>
    timeZone === null ? [] : [0, -1].map((ms) => new Date(dayBegins(timeZone, date) + ms).toISOString());
  return [day.value, ...begins(day.value), ...(next === null ? [] : begins(next))];
}

/** Values at which something may turn: each constant that fits and those beside it, then plain ones. */
function valuesFor(
  model: Model,
  { type, required = false }: Field,
  constants: readonly WireValue[],
): WireValue[] {
  const isText = type.kind === 'text' || type.kind === 'longText';
  const turning = isText
    ? constants.filter((value) => typeof value === 'string' && /^[^{]* [^{]*$/.test(value))
    : constants.flatMap((constant) => {
        const read = parseValue(type, constant);
        const value = read.ok ? toWire(type, read.value) : null;
        return value === null ? [] : [value, ...movedByOne(type, value)];
      });
  const all = [...turning, ...plainValues(model, type)].filter((value) => parseValue(type, value).ok);
  const seen = new Set<string>();
  const once = all.filter((value) => {
    const key = JSON.stringify(value);
    return seen.has(key) ? false : seen.add(key);
  });
  return [...once.slice(0, MOST_VALUES), ...(required ? [] : [null])];
}

/** Values that are told apart well: sums, averages, counts and orders of them differ. */
function plainValues(model: Model, type: ValueType): WireValue[] {
  const today = model.settledDay ?? '2027-01-01';
  switch (type.kind) {
    case 'text':
    case 'longText':
      return ['Ash', 'Birch', 'birch', 'Cedar'];
    case 'number':
      return ['3', '10', '45', '100', '0'];
    case 'money':
      return ['10', '25', '100', '400', '0'].map((amount) => ({ amount, currency: type.currency }));
    case 'anyMoney':
      return [
        ...['10', '25', '100'].map((amount) => ({ amount, currency: 'EUR' })),
        ...['40', '200'].map((amount) => ({ amount, currency: 'USD' })),
      ];
    case 'rating':
      return [type.lowest, type.highest, Math.round((type.lowest + type.highest) / 2)].map(String);
    case 'yesNo':
      return [true, false];
    case 'date':
      return [0, 1, -1, -40, 40].flatMap((days) => shiftDay(today, days) ?? []);
    case 'dateTime':
      return [0, -1, 20].map((days) => `${shiftDay(today, days)}T09:30:00.000Z`);
    case 'choice':
      return type.options.map(({ key }) => key);
    case 'choices': {
      const keys = type.options.map(({ key }) => key);
      return [...keys.slice(0, 3).map((key) => [key]), keys.slice(0, 2)];
    }
    case 'person':
      return PEOPLE;
    case 'link':
    case 'serial':
      return [];
  }
}

/** People in made-up cases, with names. */
export const MADE_UP_PEOPLE: Readonly<Record<string, string>> = {
  '00000000-0000-7000-a000-000000000001': 'Person A',
  '00000000-0000-7000-a000-000000000002': 'Person B',
};
const PEOPLE = Object.keys(MADE_UP_PEOPLE);
