import {
  type Change,
  type Later,
  type Proposed,
  type RecordStore,
  type Ripple,
  titleOf,
} from '@/core/engine';
import type { NameOf } from '@/core/expression';
import { fieldIn, type Model, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import { isCreate, isSlower, paceWords, type RuleDefinition } from '@/core/rules';
import {
  certain,
  Decimal,
  displayValue,
  type ErrorCode,
  firstIn,
  isMoney,
  toWire,
  type Value,
  type ValueType,
  type WireValue,
} from '@/core/values';

/** A value for a screen or a client: as it travels, and in words. */
export interface ValueView {
  readonly wire: WireValue;
  readonly text: string;
}

export const valueView = (type: ValueType, value: Value, nameOf?: NameOf): ValueView => ({
  wire: toWire(type, value),
  text: displayValue(type, value, nameOf),
});

export interface CellView {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /** `''` where a record was made, deleted or restored. */
  readonly field: string;
  readonly fieldName: string;
}

/** A rule that wrote something. */
export interface WriterView extends RuleName {
  /** Its pace in words, where that isn't with the save. */
  readonly pace: string | null;
}

export interface ChangeView extends CellView {
  readonly kind: 'field' | 'created' | 'deleted' | 'restored';
  readonly typeName: string;
  readonly plural: string;
  readonly before: ValueView | null;
  readonly after: ValueView | null;
  /** Of an amount: by how much it changed, an empty one taken as 0; `null` for others, and between two currencies. */
  readonly difference: string | null;
  readonly problem: string | null;
  readonly rule: WriterView | null;
  readonly causes: readonly CellView[];
}

/** What a rule looked at and left as it is, and why: people must see what must not change, too. */
export interface LeftView {
  readonly rule: WriterView;
  readonly type: string;
  readonly typeName: string;
  readonly plural: string;
  /** Alike in why, the most records first. */
  readonly kinds: readonly LeftKind[];
  /** More of them, of which it isn't looked up why. */
  readonly more: number;
}

export interface LeftKind {
  readonly why: string;
  readonly records: readonly { readonly id: string; readonly title: string }[];
}

export interface RippleView {
  readonly waves: readonly { readonly number: number; readonly changes: readonly ChangeView[] }[];
  readonly outside: readonly (CellView & { readonly rule: { readonly id: string; readonly name: string } })[];
  /**
   * What rules that react would have written, had nothing been entered there in the same run; or (`isEntered`) what was entered, and what they
   * wrote over.
   */
  readonly overruled: readonly (CellView & {
    readonly isEntered: boolean;
    readonly value: ValueView;
    readonly rule: { readonly id: string; readonly name: string };
    /** The rule that came first; `null` where something was entered. */
    readonly by: { readonly id: string; readonly name: string } | null;
  })[];
  /** Rules that acted in a circle because of something that no longer stands at the end. */
  readonly lapsed: readonly {
    readonly type: string;
    readonly id: string;
    readonly title: string;
    readonly rule: WriterView;
  }[];
  /** What the run leaves to rules of a slower pace: the first of the values, and how many they are. */
  readonly later: readonly (CellView & { readonly values: number; readonly rule: WriterView })[];
  /** Values that were written as a set, so many that they aren't told one by one. */
  readonly many: readonly {
    readonly type: string;
    readonly plural: string;
    readonly fieldName: string;
    readonly records: number;
    /** How many more values of the field the rule would have written where something else came first. */
    readonly overruled: number;
    readonly rule: WriterView;
  }[];
  /** What rules prepared for people to approve, or tell them of. */
  readonly proposals: readonly ProposedView[];
  /** What cascades looked at and left as it is; told where all of it is at hand. */
  readonly left: readonly LeftView[];
  readonly cost: Ripple['cost'];
}

/** What a rule would do once a person approves it, or did and tells of. */
export interface ProposedView {
  readonly rule: WriterView;
  readonly kind: Proposed['kind'];
  readonly isDone: boolean;
  /** The type of what would be made or written to. */
  readonly typeName: string;
  /** The record for which it would be made, or that would be written to. */
  readonly at: CellView;
  readonly fields: readonly { readonly fieldName: string; readonly value: ValueView }[];
  /** Names of required fields that nothing gives, or whose value another record has. */
  readonly missing: readonly string[];
}

/** By how much an amount changed, as plain digits. */
export function differenceOf(type: ValueType, before: Value, after: Value): string | null {
  if (type.kind !== 'number' && type.kind !== 'money') return null;
  const amounts = [before, after].map((value) => (value !== null && isMoney(value) ? value.amount : value));
  const currencies = [before, after].flatMap((value) =>
    value !== null && isMoney(value) ? [value.currency] : [],
  );
  if (new Set(currencies).size > 1) return null;
  const [from, to] = amounts.map((amount) => (amount instanceof Decimal ? amount : new Decimal(0)));
  return from && to ? to.minus(from).toFixed() : null;
}

const PROBLEMS: Record<ErrorCode, string> = {
  out_of_range: 'The result doesn’t fit into this field: it is too large, or outside the rating’s limits.',
  division_by_zero: 'It divides by zero.',
  missing_rate:
    'There is no rate between two of its currencies for that day. Add one, and this clears itself.',
  input_has_problem: 'A value that this is made of couldn’t be worked out. Open it to see which.',
};

export const problemWords = (code: ErrorCode): string => PROBLEMS[code];

export interface ViewContext {
  readonly model: Model;
  readonly plan: Plan;
  readonly store: RecordStore;
  /** Titles of people and of records that aren't in the store. */
  readonly names: Readonly<Record<string, string>>;
}

export const namesIn = ({ model, store, names }: ViewContext): NameOf => {
  const titles = (id: string) => {
    for (const { key } of model.types) {
      const row = store.row(key, id);
      if (row) return titleOf(model, row);
    }
    return undefined;
  };
  return (id) => names[id] ?? titles(id);
};

/** A ripple in waves, with titles and words, as plain data. */
export function rippleView(context: ViewContext, ripple: Ripple): RippleView {
  const nameOf = namesIn(context);
  const cell = (type: string, id: string, field: string): CellView => ({
    ...{ type, id, field, title: nameOf(id) ?? id },
    fieldName: field === '' ? '' : fieldIn(context.model, type, field).name,
  });
  const ruleOf = (id: string): WriterView => {
    const rule = context.plan.turns.find((candidate) => candidate.id === id);
    const nameOfField = (field: string) => fieldIn(context.model, certain(rule).writes.type, field).name;
    const pace = rule && isSlower(rule) && !isCreate(rule) ? paceWords(rule.pace, nameOfField) : null;
    return { id, name: rule?.name ?? id, kind: rule?.definition.kind ?? 'rollUp', pace };
  };
  const laterView = ({ rule, type, ids }: Later): RippleView['later'] => {
    const parts = context.plan.rules.filter(({ id }) => id === rule);
    return parts.map(({ writes }) => ({
      ...cell(type, firstIn(ids), writes.field),
      ...{ values: ids.length, rule: ruleOf(rule) },
    }));
  };
  const changeView = (change: Change): ChangeView => {
    const { type } = fieldIn(context.model, change.type, change.field);
    return {
      ...cell(change.type, change.id, change.field),
      ...{
        kind: 'field',
        typeName: typeIn(context.model, change.type).name,
        plural: typeIn(context.model, change.type).plural,
        difference: differenceOf(type, change.before, change.after),
        problem: change.error && problemWords(change.error),
      },
      ...{ before: valueView(type, change.before, nameOf), after: valueView(type, change.after, nameOf) },
      rule: change.rule === null ? null : ruleOf(change.rule),
      causes: change.causes.map((cause) => cell(cause.type, cause.id, cause.field)),
    };
  };
  const proposedView = ({
    rule,
    kind,
    isDone,
    type,
    source,
    target,
    values,
    missing,
  }: Proposed): ProposedView => ({
    ...{ rule: ruleOf(rule), kind, isDone, typeName: typeIn(context.model, type).name },
    at: target ? cell(target.type, target.id, '') : cell(source.type, source.id, ''),
    fields: Object.entries(values).flatMap(([key, value]) => {
      const field = fieldIn(context.model, type, key);
      return value === null ? [] : [{ fieldName: field.name, value: valueView(field.type, value, nameOf) }];
    }),
    missing: missing.map(({ field }) => fieldIn(context.model, type, field).name),
  });
  const events = ripple.events.map((event): ChangeView & { wave: number } => ({
    ...cell(event.type, event.id, ''),
    ...{ kind: event.kind, typeName: typeIn(context.model, event.type).name, wave: event.wave },
    plural: typeIn(context.model, event.type).plural,
    ...{ before: null, after: null, difference: null, problem: null },
    rule: event.rule === undefined ? null : ruleOf(event.rule),
    causes: event.causes.map((cause) => cell(cause.type, cause.id, cause.field)),
  }));
  const numbers = [...new Set([...ripple.events, ...ripple.changes].map(({ wave }) => wave))].sort(
    (a, b) => a - b,
  );
  return {
    waves: numbers.map((number) => ({
      number,
      changes: [
        ...events.filter(({ wave }) => wave === number).map(({ wave: _wave, ...view }) => view),
        ...ripple.changes.filter(({ wave }) => wave === number).map(changeView),
      ],
    })),
    outside: ripple.outside.map((entry) => ({
      ...cell(entry.type, entry.id, entry.field),
      rule: ruleOf(entry.rule),
    })),
    proposals: ripple.proposals.map((one) => proposedView(one)),
    overruled: ripple.overruled.map((entry) => ({
      ...cell(entry.type, entry.id, entry.field),
      ...{ value: valueView(fieldIn(context.model, entry.type, entry.field).type, entry.value, nameOf) },
      ...{ rule: ruleOf(entry.rule), isEntered: entry.isEntered === true },
      by: entry.by === undefined ? null : ruleOf(entry.by),
    })),
    lapsed: ripple.lapsed.map(({ rule, type, id }) => ({
      type,
      id,
      title: nameOf(id) ?? id,
      rule: ruleOf(rule),
    })),
    later: ripple.later.flatMap(laterView),
    many: ripple.many.map(({ type, field, records, rule, overruled = 0 }) => ({
      ...{ type, plural: typeIn(context.model, type).plural, records, overruled, rule: ruleOf(rule) },
      fieldName: fieldIn(context.model, type, field).name,
    })),
    left: [],
    cost: ripple.cost,
  };
}

/** What names a rule. */
export interface RuleName {
  readonly id: string;
  readonly name: string;
  readonly kind: RuleDefinition['kind'];
}
