import { grouped } from '@/core/grouped';
import type { Expression } from '@/core/syntax/expression';
import type { Limits, Option, Rounding, ValueType, WireValue } from '@/core/values';
import type { Pace } from './pace';
import type { LinkRef } from '@/core/syntax/step';

/**
 * What becomes of the children of a link when their parent is deleted: the deletion is refused, the link is cleared, or
 * they are deleted too. Only children that are still there and still name the parent at the end of the edits.
 */
export type LinkPolicy = 'refuse' | 'clear' | 'delete';

/** What a record of a type holds under one key. */
export interface Field {
  readonly key: string;
  readonly name: string;
  readonly type: ValueType;
  /** People must give it; a record without it is refused. */
  readonly required?: boolean;
  /** No two records that are there have the same; those in the bin don't count. */
  readonly unique?: boolean;
  /** What a new record has where nothing is entered. */
  readonly default?: WireValue;
  readonly help?: string;
  /** For links: the name of the other end, read from the parent (an exhibition's `Loans`). */
  readonly otherEnd?: string;
  /** For links: what becomes of these records when the parent is deleted; `refuse` unless it is said. */
  readonly whenParentGoes?: LinkPolicy;
}

/** A part of a record's page: fields under a heading, and lists of what hangs under the record. */
export interface Section {
  readonly name: string;
  /** Keys of fields, in the order in which they stand. */
  readonly fields: readonly string[];
  /** Lists of children that stand with it, by their link (`loan.exhibition`). */
  readonly lists?: readonly string[];
  /** The section is shown where this holds for the record; always when left out. */
  readonly condition?: Expression;
}

/**
 * A link whose parent may be of one of several types. It stands for one ordinary link for each of them, of which a record fills at
 * most one (exactly one where it is required); filling one makes the others empty.
 */
export interface OpenLink {
  readonly key: string;
  readonly name: string;
  /** Keys of its links, in the order in which their types are offered. */
  readonly links: readonly string[];
  readonly required?: boolean;
  readonly help?: string;
}

/** Keys of a type's fields: a text such as `EUR/GBP`, a date, and a number: so many GBP for one EUR. */
export interface RateFields {
  readonly pair: string;
  readonly day: string;
  readonly rate: string;
}

export interface RecordType {
  readonly key: string;
  readonly name: string;
  readonly plural: string;
  /** Key of the text field that names a record of this type in lists and messages. */
  readonly title: string;
  readonly fields: readonly Field[];
  /** A type whose records join two others, many-to-many (or one to itself): it has exactly two links, both required. */
  readonly bridge?: boolean;
  readonly openLinks?: readonly OpenLink[];
  /** Its records are rates of currencies: which of its fields hold the pair, the day and the rate. One type of a model at most. */
  readonly rates?: RateFields;
  /** How its records' pages are arranged; what stands in no section comes first. */
  readonly sections?: readonly Section[];
}

/** Options that serve several fields. */
export interface OptionList {
  readonly key: string;
  readonly name: string;
  readonly options: readonly Option[];
}

/** A named condition on the records of a type, for lists, rules and proofs. */
export interface Selection {
  readonly key: string;
  readonly name: string;
  readonly type: string;
  readonly condition: Expression;
}

/** What new rules begin with, where it fits their target; rules that are there don't follow it. */
export interface RuleDefaults {
  readonly rounding: Rounding | null;
  readonly limits: Limits | null;
  /** Never with a field of a type: a default is for rules of any type. */
  readonly pace: Pace;
}

export const PLAIN_DEFAULTS: RuleDefaults = { rounding: null, limits: null, pace: 'withTheSave' };

/** A model as it is stored and sent: plain data. */
export interface ModelDefinition {
  readonly types: readonly RecordType[];
  readonly lists?: readonly OptionList[];
  readonly selections?: readonly Selection[];
  readonly ruleDefaults?: RuleDefaults;
  /** Of a workspace at work, which has it beside its model (IANA name): by its clocks days begin. Isn't stored here. */
  readonly timeZone?: string | null;
}

/** A link together with the type that its records name. */
export interface Link extends LinkRef {
  readonly field: Field;
  readonly parent: string;
  readonly policy: LinkPolicy;
}

/** A model that has been checked, with its types, fields and links found by key. */
export interface Model extends ModelDefinition {
  /** The day that relative dates count from; `null` where none is known, as while a model is only looked at. */
  readonly settledDay: string | null;
  /** `null` where none is known. */
  readonly timeZone: string | null;
  /** The type whose records are rates of currencies, with its fields. */
  readonly rates: (RateFields & { readonly type: string }) | null;
  readonly ruleDefaults: RuleDefaults;
  selection(key: string): Selection | undefined;
  type(key: string): RecordType | undefined;
  field(type: string, key: string): Field | undefined;
  /** Links whose parent is the type: the ways down from it. */
  linksTo(type: string): readonly Link[];
  /** Links that records of the type have: the ways up from it. */
  linksFrom(type: string): readonly Link[];
}

/** Finds a type that must exist; a missing one is a programmer's mistake (definitions are checked first). */
export function typeIn(model: Model, key: string): RecordType {
  const found = model.type(key);
  if (!found) throw new ReferenceError(`The model has no type “${key}”`);
  return found;
}

/** Finds a field that must exist; see `typeIn`. */
export function fieldIn(model: Model, type: string, key: string): Field {
  const found = model.field(type, key);
  if (!found) throw new ReferenceError(`The type “${type}” has no field “${key}”`);
  return found;
}

/** Links of a type to itself: each makes a hierarchy. */
export const selfLinksOf = (model: Model, type: string): Link[] =>
  model.linksFrom(type).filter(({ parent }) => parent === type);

/** The open link that a link is one of, if it is. */
export const openLinkOf = (type: RecordType, link: string): OpenLink | undefined =>
  type.openLinks?.find(({ links }) => links.includes(link));

/** The type reached from `type` by following link fields upward, or undefined when a step isn't a link. */
export function follow(model: Model, type: string, route: readonly string[]): string | undefined {
  let reached: string | undefined = type;
  for (const step of route) {
    const field: Field | undefined = reached === undefined ? undefined : model.field(reached, step);
    reached = field?.type.kind === 'link' ? field.type.target : undefined;
  }
  return reached;
}

/** As `follow`, over links that exist; see `typeIn`. */
export function typeUp(model: Model, type: string, route: readonly string[]): string {
  const found = follow(model, type, route);
  if (found === undefined) throw new ReferenceError(`No links ${route.join(', ')} lead up from “${type}”`);
  return found;
}

/** Finds a selection that must exist; see `typeIn`. */
export function selectionIn(model: Model, key: string): Selection {
  const found = model.selection(key);
  if (!found) throw new ReferenceError(`The model has no selection “${key}”`);
  return found;
}

/** Builds the lookups over a definition, as of a settled day. The definition must have passed `checkModel`. */
export function readModel(definition: ModelDefinition, settledDay: string | null = null): Model {
  const types = new Map(definition.types.map((type) => [type.key, type]));
  const fields = new Map(
    definition.types.map((type) => [type.key, new Map(type.fields.map((field) => [field.key, field]))]),
  );
  const links: Link[] = definition.types.flatMap((type) =>
    type.fields.flatMap((field) =>
      field.type.kind === 'link'
        ? [
            {
              ...{ type: type.key, link: field.key, field, parent: field.type.target },
              policy: field.whenParentGoes ?? 'refuse',
            },
          ]
        : [],
    ),
  );
  const selections = new Map((definition.selections ?? []).map((selection) => [selection.key, selection]));
  const ratesType = definition.types.find(({ rates }) => rates !== undefined);
  const linksTo = grouped(links, (link) => link.parent);
  const linksFrom = grouped(links, (link) => link.type);
  return {
    types: definition.types,
    lists: definition.lists ?? [],
    selections: definition.selections ?? [],
    ruleDefaults: definition.ruleDefaults ?? PLAIN_DEFAULTS,
    settledDay,
    timeZone: definition.timeZone ?? null,
    rates: ratesType?.rates ? { type: ratesType.key, ...ratesType.rates } : null,
    selection: (key) => selections.get(key),
    type: (key) => types.get(key),
    field: (type, key) => fields.get(type)?.get(key),
    linksTo: (type) => linksTo.get(type) ?? [],
    linksFrom: (type) => linksFrom.get(type) ?? [],
  };
}
