import dayjs from 'dayjs';
import timezone from 'dayjs/plugin/timezone';
import utc from 'dayjs/plugin/utc';
import type { Edit, Row } from '@/core/engine';
import { type Expression, fieldsRead } from '@/core/expression';
import { type Model, openLinkOf, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import {
  type CompiledFormula,
  type KeptCascade,
  type CompiledLinked,
  type CompiledRollUp,
  type CompiledRule,
  type CompiledSource,
  isReactingCascade,
  isReacting,
} from '@/core/rules';
import { certain, Decimal, type Money, type RelativeDay, type Rounding, type Value } from '@/core/values';

dayjs.extend(utc);
dayjs.extend(timezone);

/**
 * Works every kept value out again from nothing, slowly and plainly, by loops over all records. Kept for tests only: it
 * shares neither the evaluator, nor the aggregates, nor the order of events with the engine; it covers what the tests'
 * rules use. Answers rows by key with their values; `'error'` stands for a value that can't be worked out.
 */
export function workOutPlainly(
  model: Model,
  plan: Plan,
  rows: readonly Row[],
): Map<string, Record<string, Value | 'error'>> {
  const there = rows.filter((row) => !row.deleted);
  const values = new Map(
    rows.map((row) => [`${row.type} ${row.id}`, { ...row.values } as Record<string, Value | 'error'>]),
  );
  const binned = new Set(rows.filter((row) => row.deleted).map((row) => `${row.type} ${row.id}`));
  const all: Everything = { model, values, binned };
  for (const rule of plan.rules) {
    if (isReacting(rule) || isReactingCascade(rule)) continue; // see `reactPlainly`
    if (rule.kind === 'keptCascade') {
      // Down a link of the type to itself as often as it is deep.
      const own = there.filter(({ type }) => type === rule.writes.type);
      for (let turn = 0; turn < (rule.handsDown ? own.length : 1); turn += 1)
        for (const row of own) {
          const at = values.get(`${row.type} ${row.id}`)!;
          if (!isOwnOn(all, rule, at, row.id)) continue;
          at[rule.writes.field] = rule.several
            ? fromSeveralOn(all, there, rule, at, row.id)
            : inStepOn(all, rule, at);
        }
      continue;
    }
    if (rule.kind === 'linked') {
      for (const row of there.filter(({ type }) => type === rule.writes.type)) {
        const own = values.get(`${row.type} ${row.id}`)!;
        if (!isOwnOn(all, rule, own, row.id)) continue;
        own[rule.writes.field] = linkedOn(all, there, rule, own, row.id);
      }
      continue;
    }
    if (rule.kind === 'formula') {
      for (const row of there.filter(({ type }) => type === rule.writes.type)) {
        const own = values.get(`${row.type} ${row.id}`)!;
        if (!isOwnOn(all, rule, own, row.id)) continue;
        own[rule.writes.field] =
          inPilotOn(all, rule, own, row.id) === true
            ? formulaOn(all, rule, own)
            : leftOn(own, rule.writes.field);
      }
      continue;
    }
    const wanted = there.filter((row) => row.type === rule.writes.type).map((row) => row.id);
    const done = new Set<string>();
    const workOut = (id: string) => {
      if (done.has(id)) return;
      done.add(id);
      // What the rule gives further down comes first: whatever is worked out for a record, it is worked out for its parts before.
      const members = rule.sources.map((source) => membersOf(all, there, source, id));
      rule.sources.forEach(({ isRecursive, value }, at) => {
        if (!isRecursive) return;
        for (const member of members[at]!) {
          const [read] = fieldsRead(value!).filter(
            ({ owner, field }) => owner === rule.writes.type && field === rule.writes.field,
          );
          const part = read!.route.length === 0 ? member.own : member.values[read!.route[0]!];
          if (typeof part === 'string' && wanted.includes(part)) workOut(part);
        }
      });
      const own = values.get(`${rule.writes.type} ${id}`)!;
      if (!isOwnOn(all, rule, own, id)) return;
      own[rule.writes.field] =
        inPilotOn(all, rule, own, id) === true
          ? writtenOn(all, rule, members, id)
          : leftOn(own, rule.writes.field);
    };
    wanted.forEach(workOut);
  }
  return values;
}

/** Whether a rule runs for a record of the type that it is on: always, but in a pilot. */
function inPilotOn(
  all: Everything,
  { pilot, definition: { type } }: Pick<CompiledRule, 'pilot' | 'definition'>,
  own: Plain,
  id: string,
): Verdict {
  if (!pilot) return true;
  if (pilot.kind === 'records') return pilot.ids.includes(id);
  const { condition } = all.model.selection(pilot.selection)!;
  return holds(all, type, condition, own);
}

/** Whether a record is a rule's, where two versions of it run beside each other: by the record at the start of a cascade. */
function isOwnOn(all: Everything, rule: CompiledRule, own: Plain, id: string): boolean {
  const { half, definition } = rule;
  if (!half) return true;
  const from = rule.kind === 'keptCascade' ? sourceOn(all, rule, own) : { id, at: own };
  const found = from ? inPilotOn(all, { pilot: half.pilot, definition }, from.at, from.id) : false;
  return (found === true) !== half.isOutside;
}

/** What stands where a rule claims nothing: its own error goes. */
const leftOn = (own: Plain, field: string): Value => {
  const stands = own[field] ?? null;
  return stands === 'error' ? null : stands;
};

/** Both of two answers, where an error counts unless the other is no. */
const bothOf = (one: Verdict, other: Verdict): Verdict =>
  one === false || other === false ? false : one === 'error' ? one : other;

/** What stands in a roll-up's target: the result, or what its map makes of it. */
function writtenOn(
  all: Everything,
  rule: CompiledRollUp,
  members: readonly (readonly Member[])[],
  id: string,
): Value | 'error' {
  const { map } = rule.definition;
  if (!map) return totalOf(all, rule, members, id);
  const row = rowOn(all, rule, members, id);
  if (row === 'error') return 'error';
  if (row === 'none') return rule.whenNone;
  const writes =
    row !== null ? map.rows[row]!.writes : map.otherwise.kind === 'writes' ? map.otherwise.value : null;
  return writtenValue(rule, writes);
}

const writtenValue = ({ target }: CompiledRollUp, wire: unknown): Value => {
  const { kind } = target.type;
  if (wire === null) return null;
  if (kind === 'money')
    return { ...(wire as Money), amount: new Decimal((wire as { amount: string }).amount) };
  return kind === 'number' || kind === 'rating' ? new Decimal(wire as string) : (wire as Value);
};

const NOTHING_COUNTS = 'nothing counts';

/** Which row of a map holds: the result is worked out as if it stood in a field of many places. */
function rowOn(
  all: Everything,
  rule: CompiledRollUp,
  members: readonly (readonly Member[])[],
  id: string,
): number | 'none' | 'error' | null {
  const { resultType, target } = rule;
  const isAmount = ['number', 'money', 'rating'].includes(resultType.kind);
  const type = isAmount ? ({ kind: 'number', scale: 40 } as const) : resultType;
  const raw = { ...rule, map: null, whenNone: NOTHING_COUNTS, target: { ...target, type } };
  const result = totalOf(all, raw, members, id);
  if (result === 'error') return 'error';
  if (result === NOTHING_COUNTS) return 'none';
  if (result === null) return null;
  const rank = (key: unknown) =>
    resultType.kind === 'choice' ? resultType.options.findIndex((option) => option.key === key) : 0;
  const found = rule.definition.map!.rows.findIndex(({ operator, than }) => {
    const other = constant(than, result);
    const order = resultType.kind === 'choice' ? rank(result) - rank(other) : orderOf(result, other);
    if (operator === '=') return same(result, other);
    if (operator === '!=') return !same(result, other);
    if (operator === '<') return order < 0;
    return order >= 0;
  });
  return found < 0 ? null : found;
}

/**
 * What must stand in the targets of rules that react after one run, from the records before and after it and its edits: `id field` → the
 * value. The result before and the result after are each worked out from nothing. Rules in a circle are left out: they act in rounds, and
 * what made one act may be gone at the end.
 */
export function reactPlainly(
  model: Model,
  plan: Plan,
  before: readonly Row[],
  after: readonly Row[],
  edits: readonly Edit[],
): Map<string, Value> {
  const expected = new Map<string, Value>();
  for (const rule of plan.rules) {
    if (!isReacting(rule) || plan.circles.some((circle) => circle.has(rule))) continue;
    const { type, field } = rule.writes;
    const asked = (rows: readonly Row[], id: string): Value | undefined => {
      const all = everythingOf(model, rows);
      const there = rows.filter((row) => !row.deleted);
      const members = rule.sources.map((source) => membersOf(all, there, source, id));
      const row = rowOn(all, rule, members, id);
      if (row === null || row === 'error') return undefined;
      if (row === 'none') return rule.whenNone ?? undefined;
      return writtenValue(rule, rule.definition.map!.rows[row]!.writes);
    };
    for (const now of after) {
      if (now.type !== type || now.deleted) continue;
      const was = before.find(({ id }) => id === now.id);
      const edit = edits.find(({ id }) => id === now.id);
      const entered = edit && 'values' in edit && field in edit.values;
      const stood = entered ? edit.values[field]! : was ? was.values[field]! : null;
      const isOwn = isOwnOn(everythingOf(model, after), rule, now.values, now.id);
      if (isOwn || !expected.has(`${now.id} ${field}`)) expected.set(`${now.id} ${field}`, stood);
      if (!isOwn) continue;
      const isHeld = entered || was?.deleted;
      const wanted = asked(after, now.id);
      const had = was && !was.deleted ? asked(before, now.id) : undefined;
      if (isHeld || wanted === undefined || (had !== undefined && same(wanted, had))) continue;
      const all = everythingOf(model, after);
      const self = { ...all.values.get(`${type} ${now.id}`)!, [field]: stood };
      const { appliesWhen = null } = rule.definition;
      if (
        inPilotOn(all, rule, self, now.id) === true &&
        (appliesWhen === null || holds(all, type, appliesWhen, self) === true)
      )
        expected.set(`${now.id} ${field}`, wanted);
    }
  }
  return expected;
}

function everythingOf(model: Model, rows: readonly Row[]): Everything {
  const values = new Map<string, Plain>();
  for (const row of rows) {
    const plain: Plain = { ...row.values };
    for (const field of Object.keys(row.errors)) plain[field] = 'error';
    values.set(`${row.type} ${row.id}`, plain);
  }
  const binned = new Set(rows.filter((row) => row.deleted).map((row) => `${row.type} ${row.id}`));
  return { model, values, binned };
}

/** A formula by hand: the tests' formulas are a choice between products, where something applies. */
function formulaOn(all: Everything, rule: CompiledFormula, own: Plain): Value | 'error' {
  const { type, value, appliesWhen, otherwise } = rule.definition;
  const applies = appliesWhen ? holds(all, type, appliesWhen, own) : true;
  if (applies === 'error') return 'error';
  const chosen = applies ? value : otherwise;
  if (chosen === null) return null;
  const given = givenOn(all, type, chosen, own);
  return given === null || given === 'error' ? given : fittedOwn(rule, given, true);
}

/** The record that cascades to another, by walking up to it. */
function sourceOn(all: Everything, { definition, writes }: KeptCascade, own: Plain) {
  let [type, at] = [writes.type, own];
  let source = '';
  for (const { link } of [...definition.route].reverse()) {
    const id = at[link];
    type = all.model.linksFrom(type).find((one) => one.link === link)!.parent;
    if (typeof id !== 'string' || all.binned.has(`${type} ${id}`)) return null;
    at = all.values.get(`${type} ${id}`)!;
    source = id;
  }
  return { id: source, at };
}

/** What a parent cascades, by walking up to it: one of the tests' assignments, a field or a product. */
function inStepOn(all: Everything, rule: KeptCascade, own: Plain): Value | 'error' {
  const { type, condition, assignments } = rule.definition;
  const left = leftOn(own, rule.writes.field);
  const from = sourceOn(all, rule, own);
  if (!from) return left;
  const { id: source, at } = from;
  const applies = bothOf(
    condition ? holds(all, rule.writes.type, condition, own) : true,
    inPilotOn(all, rule, at, source),
  );
  if (applies === 'error') return 'error';
  if (!applies) return left;
  const { value } = assignments.find(({ target }) => target === rule.writes.field)!;
  const given = value.kind === 'expression' ? givenOn(all, type, value.expression, at) : null;
  return given === null || given === 'error' ? given : fittedOwn(rule, given, true);
}

/** What the first of those that cascade to a record does: by following the rule's way from every record of its type. */
function fromSeveralOn(
  all: Everything,
  there: readonly Row[],
  rule: KeptCascade,
  own: Plain,
  id: string,
): Value | 'error' {
  const { type, route, condition, order, same: alike = [], assignments } = rule.definition;
  const left = leftOn(own, rule.writes.field);
  const valuesOf = (row: Pick<Row, 'type' | 'id'>) => all.values.get(`${row.type} ${row.id}`)!;
  const isBeside = route.length === 2 && route[0]!.direction === 'up' && route[1]!.direction === 'down';
  const reaches = (source: Row): boolean => {
    let at: readonly Row[] = [source];
    for (const step of route)
      at = there.filter((row) =>
        step.direction === 'down'
          ? row.type === step.type && at.some((one) => valuesOf(row)[step.link] === one.id)
          : at.some((one) => valuesOf(one)[step.link] === row.id),
      );
    return at.some((row) => row.id === id) && !(isBeside && source.id === id);
  };
  const sources = there.filter(
    (row) =>
      row.type === type &&
      reaches(row) &&
      alike.every((key) => {
        const [theirs, mine] = [valuesOf(row)[key] ?? null, own[key] ?? null];
        return (
          theirs !== null && mine !== null && theirs !== 'error' && mine !== 'error' && same(theirs, mine)
        );
      }),
  );
  const inPilot = sources.map((row) => inPilotOn(all, rule, valuesOf(row), row.id));
  const found = sources.filter((_, at) => inPilot[at] === true);
  const isThere: Verdict = inPilot.includes('error') ? 'error' : found.length > 0;
  const applies = bothOf(isThere, condition ? holds(all, rule.writes.type, condition, own) : true);
  if (applies === 'error') return 'error';
  if (!applies) return left;
  const key = (row: Row) => {
    const given = order?.field ? givenOn(all, type, order.field, valuesOf(row)) : null;
    return given === 'error' ? null : given;
  };
  const sign = order?.isLast ? -1 : 1;
  const [first] = [...found].sort((a, b) => {
    const [one, other] = [key(a), key(b)];
    if (one !== null && other !== null && !same(one, other)) return orderOf(one, other) * sign;
    if ((one === null) !== (other === null)) return one === null ? 1 : -1;
    const byId = a.id < b.id ? -1 : 1;
    return order && !order.field ? byId * sign : byId;
  });
  const { value } = assignments.find(({ target }) => target === rule.writes.field)!;
  const given = value.kind === 'expression' ? givenOn(all, type, value.expression, valuesOf(first!)) : null;
  return given === null || given === 'error' ? given : fittedOwn(rule, given, true);
}

/** What a link rule finds, by walking up, or by a loop over all records; the tests' keys are fields of the record itself. */
function linkedOn(
  all: Everything,
  there: readonly Row[],
  rule: CompiledLinked,
  own: Plain,
  id: string,
): Value | 'error' {
  const { find, appliesWhen, holds: when, none, target, type } = rule.definition;
  const left = leftOn(own, target);
  if (when === 'whereEmpty' && left !== null) return left;
  const applies = bothOf(
    appliesWhen ? holds(all, type, appliesWhen, own) : true,
    inPilotOn(all, rule, own, id),
  );
  const others = openLinkOf(typeIn(all.model, type), target)?.links.filter((link) => link !== target) ?? [];
  if (others.some((link) => (own[link] ?? null) !== null)) return left;
  if (applies === 'error') return 'error';
  if (!applies) return left;
  const orElse = none === 'clear' ? null : left;
  if (find.kind === 'route') {
    let at = own[find.route[0]!];
    const to = all.model.linksFrom(type).find(({ link }) => link === find.route[0])!.parent;
    if (typeof at !== 'string') return orElse;
    if (find.topmost === null) return at;
    const start = at;
    for (;;) {
      const next: unknown = all.values.get(`${to} ${at}`)![find.topmost];
      if (typeof next !== 'string' || all.binned.has(`${to} ${next}`)) break;
      at = next;
    }
    return at === start && find.whenNoneAbove === 'empty' ? orElse : at;
  }
  const to = all.model.linksFrom(type).find(({ link }) => link === target)!.parent;
  const folded = (value: unknown) =>
    find.ignoresCase && typeof value === 'string' ? value.toLowerCase() : value;
  const read = (field: string, values: Plain) => values[field] ?? null;
  const alike = there.filter((row) => {
    if (row.type !== to) return false;
    const values = all.values.get(`${to} ${row.id}`)!;
    return find.keys.every(({ field, value }) => {
      const [has, wanted] = [read(field, values), read((value as { field: string }).field, own)];
      return has !== null && wanted !== null && same(folded(has), folded(wanted));
    });
  });
  const verdicts = alike.map((row) => {
    const values = all.values.get(`${to} ${row.id}`)!;
    return find.condition ? holds(all, to, find.condition, values) : true;
  });
  if (verdicts.includes('error')) return 'error';
  const matches = alike.filter((_, at) => verdicts[at] === true);
  if (matches.length === 0 || (find.several === 'ask' && matches.length > 1)) return orElse;
  const key = (row: Row) => {
    const by = find.order?.field;
    return by ? read(by.field, all.values.get(`${to} ${row.id}`)!) : null;
  };
  const sign = find.order?.isLast ? -1 : 1;
  const [first] = [...matches].sort((a, b) => {
    const [one, other] = [key(a), key(b)];
    if (one !== null && other !== null && !same(one, other)) return orderOf(one, other) * sign;
    if ((one === null) !== (other === null)) return one === null ? 1 : -1;
    const byId = a.id < b.id ? -1 : 1;
    return find.order && !find.order.field ? byId * sign : byId;
  });
  return first!.id;
}

interface Member {
  readonly own: string;
  readonly values: Plain;
}

/** All records beneath, by a loop over everything for each step. */
function membersOf(
  { values }: Everything,
  there: readonly Row[],
  { definition }: CompiledSource,
  id: string,
): Member[] {
  let at = [id];
  let found: Member[] = [];
  for (const step of definition.route) {
    if (step.direction === 'up') break;
    const beneath = (ids: readonly string[]) =>
      there
        .filter((row) => row.type === step.type)
        .map((row) => ({ own: row.id, values: values.get(`${row.type} ${row.id}`)! }))
        .filter((child) => ids.includes(child.values[step.link] as string));
    found = beneath(at);
    // As often as it may be deep.
    for (let turn = 0; step.isAllTheWay && turn < there.length; turn += 1) {
      const deeper = beneath(found.map(({ own }) => own));
      found = [...found, ...deeper.filter(({ own }) => !found.some((one) => one.own === own))];
    }
    at = found.map(({ own }) => own);
  }
  return found;
}

type Plain = Record<string, Value | 'error'>;

interface Everything {
  readonly model: Model;
  readonly values: ReadonlyMap<string, Plain>;
  readonly binned: ReadonlySet<string>;
}

/** The one in the middle, or halfway between the two in the middle. */
function middleOf(amounts: readonly Decimal[]): Decimal {
  const sorted = [...amounts].sort((a, b) => Number(a.minus(b).comparedTo(0)));
  const below = sorted[Math.ceil(sorted.length / 2) - 1]!;
  return below.plus(sorted[Math.floor(sorted.length / 2)]!).div(2);
}

/** How far they lie apart: the root of the mean of squares, by one less than there are. */
function apart(amounts: readonly Decimal[]): Decimal | null {
  if (amounts.length < 2) return null;
  const mean = amounts.reduce((sum, one) => sum.plus(one)).div(amounts.length);
  const squares = amounts.map((one) => one.minus(mean).pow(2));
  return squares
    .reduce((sum, one) => sum.plus(one))
    .div(amounts.length - 1)
    .sqrt();
}

function totalOf(
  all: Everything,
  rule: CompiledRollUp,
  members: readonly (readonly Member[])[],
  id: string,
): Value | 'error' {
  const { aggregate } = rule.definition;
  const { adds, standsIn, whenNone } = rule.own;
  const self = all.values.get(`${rule.writes.type} ${id}`)!;
  const standing = standsIn && found(all, rule.writes.type, standsIn.route, standsIn.field, self);
  if (standing === 'error') return 'error';
  if (standing !== null) return fittedOwn(rule, standing, true);
  if (aggregate === 'first' || aggregate === 'last') return leaderOn(all, rule, members, self);
  if (aggregate === 'joined') return joinedOn(all, rule, members, self);
  const given: (Value | 'error')[] = [];
  rule.sources.forEach((source, at) => given.push(...givenBy(all, rule, source, members[at]!)));
  const own = adds && found(all, rule.writes.type, adds.route, adds.field, self);
  if (own !== null) given.push(own);
  const nothing = () => {
    const none = whenNone && found(all, rule.writes.type, whenNone.route, whenNone.field, self);
    return none === null ? rule.whenNone : none === 'error' ? none : fittedOwn(rule, none, false);
  };
  if (given.includes('error')) return 'error';
  if (given.length === 0) return nothing();
  if (aggregate === 'count') {
    const counted = given.map((one) => (one === null ? new Decimal(1) : (one as Decimal)));
    return fitted(
      rule,
      counted.reduce((sum, one) => sum.plus(one), new Decimal(0)),
      null,
    );
  }
  const isAmount = isMoney(given[0]!);
  if (aggregate === 'countDistinct') {
    const different = (given as Value[]).filter(
      (one, at) => given.findIndex((other) => same(one, other)) === at,
    );
    return fitted(rule, new Decimal(different.length), null);
  }
  if (aggregate === 'all') return !given.includes(false);
  if (aggregate === 'any') return given.includes(true);
  if (aggregate === 'none') return !given.includes(true);
  if (aggregate === 'best' || aggregate === 'worst') {
    const { options } = rule.valueType as { options: readonly { readonly key: string }[] };
    const there = options.map(({ key }) => key).filter((key) => given.includes(key));
    return aggregate === 'best' ? there[0]! : there.at(-1)!;
  }
  if (aggregate === 'range') {
    const sorted = [...(given as Value[])].sort((a, b) => orderOf(a, b));
    const digitsOf = (one: Value) => (isMoney(one) ? one.amount : (one as Decimal));
    return fitted(rule, digitsOf(sorted.at(-1)!).minus(digitsOf(sorted[0]!)), given[0]!);
  }
  if (aggregate === 'percentile') {
    const sorted = (given as Value[])
      .map((one) => (isMoney(one) ? one.amount : (one as Decimal)))
      .sort((a, b) => a.comparedTo(b));
    // A hundred steps from each to the next.
    const steps = sorted.flatMap((low, at) => {
      const high = sorted[at + 1];
      return high
        ? Array.from({ length: 100 }, (_, step) => low.plus(high.minus(low).times(step).div(100)))
        : [low];
    });
    return fitted(rule, steps[rule.definition.percent! * (sorted.length - 1)]!, given[0]!);
  }
  if (aggregate === 'median' || aggregate === 'deviation') {
    const amounts = (given as Value[]).map((one) => (isMoney(one) ? one.amount : (one as Decimal)));
    const spread = aggregate === 'median' ? middleOf(amounts) : apart(amounts);
    return spread === null ? nothing() : fitted(rule, spread, given[0]!);
  }
  if (aggregate === 'minimum' || aggregate === 'maximum') {
    const sorted = [...(given as Value[])].sort((a, b) => orderOf(a, b));
    const extreme = aggregate === 'minimum' ? sorted[0]! : sorted.at(-1)!;
    return typeof extreme === 'string'
      ? extreme
      : fitted(rule, isMoney(extreme) ? extreme.amount : (extreme as Decimal), given[0]!);
  }
  const digits = given.map((found) => (isAmount ? (found as Money).amount : (found as Decimal)));
  const sum = digits.reduce((total, next) => total.plus(next), new Decimal(0));
  return fitted(rule, aggregate === 'average' ? sum.div(given.length) : sum, given[0]!);
}

/** The value of the first or last by sorting all of them. */
function leaderOn(
  all: Everything,
  rule: CompiledRollUp,
  members: readonly (readonly Member[])[],
  self: Plain,
): Value | 'error' {
  const candidates: { keys: Value[]; id: string; value: Value }[] = [];
  for (const [at, { definition, type, order }] of rule.sources.entries()) {
    const { condition, value } = definition;
    for (const { own, values } of members[at]!) {
      const verdict = condition ? holds(all, type, condition, values) : true;
      if (verdict === 'error') return 'error';
      if (!verdict) continue;
      const given = value ? givenOn(all, type, value, values) : null;
      const keys = order.map(({ route, field }) => found(all, type, route, field, values));
      if (given === 'error' || keys.includes('error')) return 'error';
      if (keys[0] !== null) candidates.push({ keys: keys as Value[], id: own, value: given });
    }
  }
  const { order } = rule.sources[0]!;
  candidates.sort((a, b) => {
    for (const [at, { type }] of order.entries()) {
      const [one, other] = [a.keys[at]!, b.keys[at]!];
      const rank = (of: Value) =>
        type.kind === 'choice' ? type.options.findIndex(({ key }) => key === of) : 0;
      const apart =
        one === null || other === null
          ? Number(one !== null) - Number(other !== null)
          : type.kind === 'choice'
            ? rank(one) - rank(other)
            : orderOf(one, other);
      if (apart !== 0) return apart;
    }
    return a.id < b.id ? -1 : 1;
  });
  const leader = rule.aggregate === 'first' ? candidates[0] : candidates.at(-1);
  if (leader) return leader.value === null ? null : fittedOwn(rule, leader.value, true);
  const none =
    rule.own.whenNone && found(all, rule.writes.type, rule.own.whenNone.route, rule.own.whenNone.field, self);
  return none === null ? rule.whenNone : none === 'error' ? none : fittedOwn(rule, none, false);
}

/** Texts joined, by sorting them. */
function joinedOn(
  all: Everything,
  rule: CompiledRollUp,
  members: readonly (readonly Member[])[],
  self: Plain,
): Value | 'error' {
  const texts: string[] = [];
  for (const [at, source] of rule.sources.entries()) {
    const given = givenBy(all, rule, source, members[at]!);
    if (given.includes('error')) return 'error';
    texts.push(...(given as string[]));
  }
  if (texts.length === 0) {
    const { whenNone } = rule.own;
    const none = whenNone && found(all, rule.writes.type, whenNone.route, whenNone.field, self);
    return none === null ? rule.whenNone : none === 'error' ? none : fittedOwn(rule, none, false);
  }
  const { separator, isDistinct, isFromLast, most } = rule.definition.joining!;
  const sorted = texts.sort((a, b) => Buffer.compare(Buffer.from(a), Buffer.from(b)));
  const once = isDistinct ? sorted.filter((one, place) => sorted.indexOf(one) === place) : sorted;
  const kept = isFromLast ? [...once].reverse() : once;
  const shown = most ? kept.slice(0, most) : kept;
  const rest = kept.length - shown.length;
  return `${shown.join(separator)}${rest > 0 ? ` and ${rest} more` : ''}`;
}

/** What the members of a source give, each end of a bridge once unless every way counts; `null` for a record that is counted. */
function givenBy(
  all: Everything,
  rule: CompiledRollUp,
  { definition, type, route, isRecursive }: CompiledSource,
  members: readonly Member[],
): (Value | 'error')[] {
  const { condition, value } = definition;
  const verdicts = members.map((member) => (condition ? holds(all, type, condition, member.values) : true));
  if (verdicts.includes('error')) return ['error'];
  const up = definition.route.slice(route.length);
  const ends = new Set<unknown>();
  const given: (Value | 'error')[] = [];
  members.forEach(({ values }, at) => {
    if (verdicts[at] !== true) return;
    const one = value ? givenOn(all, type, value, values) : null;
    if (value && one === null) return;
    if (up.length > 0 && !definition.isEveryWay && one !== 'error') {
      const links = up.map(({ link }) => link);
      const end = found(all, type, links.slice(0, -1), links.at(-1)!, values);
      if (end === null || ends.has(end)) return;
      ends.add(end);
    }
    // Where none of what lies beneath a part is so, the part adds a no.
    given.push(rule.aggregate === 'none' && isRecursive && one !== 'error' ? one !== true : one);
  });
  return given;
}

/** A field, or the product of two. */
function givenOn(all: Everything, type: string, value: Expression, values: Plain): Value | 'error' {
  if (value.kind === 'field') return found(all, type, value.route, value.field, values);
  if (value.kind === 'constant') return new Decimal(value.value as string);
  if (value.kind === 'gather') return gatheredOn(all, type, value, values);
  if (value.kind === 'if') {
    const verdict = holds(all, type, value.condition, values);
    if (verdict === 'error') return 'error';
    return givenOn(all, type, verdict ? value.then : value.otherwise, values);
  }
  if (value.kind === 'call') return exchangedOn(all, type, value, values);
  if (value.kind === 'arithmetic' && value.operator === '/') return quotientOn(all, type, value, values);
  if (value.kind !== 'arithmetic' || value.operator !== '*') throw new TypeError('not for this test');
  const [a, b] = [value.left, value.right].map((part) => givenOn(all, type, part, values));
  if (a === 'error' || b === 'error') return 'error';
  if (a === null || b === null) return null;
  if (isMoney(a)) return { ...a, amount: a.amount.times(b as Decimal) };
  return (a as Decimal).times(b as Decimal);
}

/** By a loop over all rates: the latest of the day and the seven before it, of one day the one with the latest id. */
function exchangedOn(
  all: Everything,
  type: string,
  { arguments: [amount, code, day] }: Extract<Expression, { kind: 'call' }>,
  values: Plain,
): Value | 'error' {
  const given = givenOn(all, type, amount!, values);
  const of = day!.kind === 'day' ? dayOf(all.model, day!) : givenOn(all, type, day!, values);
  if (given === 'error' || of === 'error') return 'error';
  if (given === null || of === null) return null;
  const money = given as Money;
  const to = (code as { value: string }).value;
  if (money.currency === to) return money;
  const first = dayjs(of as string)
    .subtract(7, 'day')
    .format('YYYY-MM-DD');
  const rates = [...all.values]
    .filter(
      ([key, one]) =>
        key.startsWith('rate ') && !all.binned.has(key) && one.pair === `${money.currency}/${to}`,
    )
    .filter(
      ([, one]) =>
        one.rate !== null && one.day !== null && String(one.day) <= String(of) && String(one.day) >= first,
    )
    .sort(([a, one], [b, other]) => (`${String(one.day)} ${a}` < `${String(other.day)} ${b}` ? 1 : -1));
  const [rate] = rates;
  return rate ? { amount: money.amount.times(rate[1].rate as Decimal), currency: to } : 'error';
}

/** To 20 places, by the library's own division. */
function quotientOn(
  all: Everything,
  type: string,
  { left, right }: Extract<Expression, { kind: 'arithmetic' }>,
  values: Plain,
): Value | 'error' {
  const [a, b] = [left, right].map((part) => givenOn(all, type, part, values));
  if (a === 'error' || b === 'error') return 'error';
  if (a === null || b === null) return null;
  if ((b as Decimal).isZero()) return 'error';
  return (a as Decimal).div(b as Decimal).toDecimalPlaces(20, 4);
}

/** The sum or number of what lies beneath over one link. */
function gatheredOn(
  all: Everything,
  type: string,
  { aggregate, up, down, value, condition }: Extract<Expression, { kind: 'gather' }>,
  values: Plain,
): Value | 'error' {
  const [step] = down;
  const own = [...all.values].find(([, one]) => one === values)![0].split(' ')[1]!;
  const above = up[0] === undefined ? null : all.model.linksFrom(type).find(({ link }) => link === up[0])!;
  const named = above ? values[above.link] : own;
  const isGone = above !== null && all.binned.has(`${above.parent} ${String(named)}`);
  const id = isGone || typeof named !== 'string' ? null : named;
  const members = [...all.values].flatMap(([key, one]) =>
    key.startsWith(`${step!.type} `) && !all.binned.has(key) && id !== null && one[step!.link] === id
      ? [one]
      : [],
  );
  const verdicts = members.map((one) => (condition ? holds(all, step!.type, condition, one) : true));
  const counted = members.filter((_, at) => verdicts[at] === true);
  const given = counted.map((one) => (value ? givenOn(all, step!.type, value, one) : new Decimal(1)));
  if (verdicts.includes('error') || given.includes('error')) return 'error';
  const found = given.filter((one) => one !== null) as Decimal[];
  if (aggregate === 'count') return new Decimal(found.length);
  return found.reduce((sum, one) => sum.plus(one), new Decimal(0));
}

/** A value of the record itself in place of a result. */
function fittedOwn(rule: CompiledRule, value: Value, isRounded: boolean): Value | 'error' {
  const digits = isMoney(value) ? value.amount : value instanceof Decimal ? value : null;
  return digits === null ? value : fitted(isRounded ? rule : { ...rule, rounding: null }, digits, value);
}

/** Rounded to the target's places; a rating outside its limits is an error. */
function fitted(
  { target: { type }, rounding, limits }: Pick<CompiledRule, 'target' | 'rounding' | 'limits'>,
  exact: Decimal,
  like: Value | 'error',
): Value | 'error' {
  const places = type.kind === 'money' ? 2 : type.kind === 'number' ? type.scale : 0;
  const held = rounding ? ownRounding(exact, rounding) : exact;
  const least = limits?.least && held.lessThan(limits.least) ? limits.least : held;
  const own = limits?.most && least.greaterThan(limits.most) ? limits.most : least;
  const near = own.toDecimalPlaces(places, 4);
  const rounded = near.isZero() ? new Decimal(0) : near; // the library knows a negative zero, Oikon doesn't
  if (type.kind === 'rating' && (rounded.lessThan(type.lowest) || rounded.greaterThan(type.highest)))
    return 'error';
  return isMoney(like) ? { amount: rounded, currency: like.currency } : rounded;
}

/** By the library's own rounding: halves away from zero, up, down. */
function ownRounding(exact: Decimal, { mode, places, step }: Rounding): Decimal {
  const how = { nearest: 4, up: 2, down: 3 } as const;
  if (step === undefined) return exact.toDecimalPlaces(places, how[mode]);
  return exact.div(step).toDecimalPlaces(0, how[mode]).times(step);
}

const isMoney = (value: unknown): value is Money =>
  typeof value === 'object' && value !== null && 'currency' in value;

/** Numbers and amounts by size, anything else as text. */
function orderOf(a: unknown, b: unknown): number {
  if (isMoney(a) && isMoney(b)) return a.amount.comparedTo(b.amount);
  if (a instanceof Decimal && b instanceof Decimal) return a.comparedTo(b);
  return String(a) < String(b) ? -1 : String(a) > String(b) ? 1 : 0;
}

/** What stands in a field up a route: empty where a link is empty or leads to a record that is gone. */
const found = (
  all: Everything,
  type: string,
  route: readonly string[],
  field: string,
  child: Plain,
): Value | 'error' => reached(all, type, route, child).record?.[field] ?? null;

/** The record up a route, if there is one, and its type. */
function reached(
  all: Everything,
  type: string,
  route: readonly string[],
  child: Plain,
): { readonly record: Plain | undefined; readonly at: string } {
  let record: Plain | undefined = child;
  let at = type;
  for (const link of route) {
    const target = all.model.field(at, link)!.type;
    at = target.kind === 'link' ? target.target : at;
    const key: string = `${at} ${String(record?.[link])}`;
    record = all.binned.has(key) ? undefined : all.values.get(key);
  }
  return { record, at };
}

type Verdict = boolean | 'error';

/** A part in error puts the whole in error, unless another part decides. */
function holds(all: Everything, type: string, condition: Expression, child: Plain): Verdict {
  switch (condition.kind) {
    case 'group': {
      const verdicts = condition.of.map((part) => holds(all, type, part, child));
      const isDecided = verdicts.includes(condition.operator !== 'all');
      if (!isDecided && verdicts.includes('error')) return 'error';
      return condition.operator === 'any' ? isDecided : !isDecided;
    }
    case 'presence': {
      if (condition.operand.kind !== 'field') throw new TypeError('not for this test');
      const value = found(all, type, condition.operand.route, condition.operand.field, child);
      return value === 'error' ? 'error' : (value === null) === (condition.operator === 'isEmpty');
    }
    case 'compare': {
      const { left, right, operator } = condition;
      if (left.kind !== 'field' || (right.kind !== 'constant' && right.kind !== 'day'))
        throw new TypeError('not for this test');
      const value = found(all, type, left.route, left.field, child);
      if (value === 'error') return 'error';
      if (value === null) return false;
      if (right.kind === 'day' && typeof value === 'string' && value.includes('T'))
        return momentHolds(all.model, value, operator, right);
      const written = right.kind === 'day' ? dayOf(all.model, right) : right.value;
      if (written === null) return false;
      const other = constant(written, value);
      if (operator === '=') return same(value, other);
      if (operator === '!=') return !same(value, other);
      if (operator === '>') return orderOf(value, other) > 0;
      if (operator === '<') return orderOf(value, other) < 0;
      if (operator === '>=') return orderOf(value, other) >= 0;
      if (operator === '<=') return orderOf(value, other) <= 0;
      throw new TypeError('not for this test');
    }
    case 'selection': {
      const { condition: inner } = all.model.selection(condition.selection)!;
      const { record, at } = reached(all, type, condition.route, child);
      // Where there is no record, none is in the selection.
      const isIn = record === undefined ? false : holds(all, at, inner, record);
      return isIn === 'error' ? 'error' : isIn === (condition.operator === 'isIn');
    }
    default:
      throw new TypeError('not for this test');
  }
}

/** A relative date, by the library for dates. */
function dayOf({ settledDay }: Model, { from, plus, unit }: RelativeDay): string {
  const today = dayjs(settledDay);
  const base = from === 'today' ? today : today.startOf(from === 'monthStart' ? 'month' : 'year');
  if (unit === 'workingDay' || unit === 'hour') throw new TypeError('not for this test');
  return base.add(plus, unit).format('YYYY-MM-DD');
}

/** By the days that clocks in the workspace's time zone show, or by hours from when the settled day began. */
function momentHolds(
  { settledDay, timeZone }: Model,
  moment: string,
  operator: string,
  day: RelativeDay,
): boolean {
  const isHours = day.unit === 'hour';
  const began = dayjs.tz(certain(settledDay), certain(timeZone)).valueOf();
  const shown = isHours ? Date.parse(moment) : dayjs(moment).tz(certain(timeZone)).format('YYYY-MM-DD');
  const wanted = isHours ? began + day.plus * 3_600_000 : dayOf({ settledDay } as Model, day);
  if (operator === '=') return shown === wanted;
  if (operator === '!=') return shown !== wanted;
  if (operator === '<') return shown < wanted;
  if (operator === '<=') return shown <= wanted;
  return operator === '>' ? shown > wanted : shown >= wanted;
}

const same = (a: unknown, b: unknown): boolean => {
  if (isMoney(a) && isMoney(b) && a.currency !== b.currency) return false;
  return isMoney(a) || a instanceof Decimal ? orderOf(a, b) === 0 : a === b;
};

/** A constant as it travels, in the form of the value with which it is compared. */
function constant(wire: unknown, like: unknown): unknown {
  if (isMoney(like))
    return { amount: new Decimal((wire as { amount: string }).amount), currency: like.currency };
  return like instanceof Decimal ? new Decimal(wire as string) : wire;
}
