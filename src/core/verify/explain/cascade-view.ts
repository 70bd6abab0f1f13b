import {
  walkRoute,
  ask,
  type Edit,
  Overlay,
  propagate,
  type RecordStore,
  type Row,
  rowSet,
  type RowsOf,
  runInMemory,
  sameOutcome,
  storedOutcome,
  titleOf,
  RouteReader,
} from '@/core/engine';
import {
  fieldsRead,
  OUTSIDE,
  type Reason,
  reasonsAgainst,
  type RunContext,
  typeCondition,
} from '@/core/expression';
import { type Field, type Model, typeAlong, typeIn } from '@/core/model';
import { planAlone } from '@/core/plan';
import {
  type Cascade,
  type ReactingCascade,
  type KeptCascade,
  type CompiledTest,
  assignedOutcome,
  partsOf,
  sentenceOf,
  recipientsWords,
} from '@/core/rules';
import {
  certain,
  compareText,
  Decimal,
  firstIn,
  isMoney,
  lastIn,
  parseValue,
  shiftDay,
  type Value,
  type WireValue,
} from '@/core/values';
import { namesIn, valueView, type ValueView, type ViewContext } from './views';

/** A record that may take values, and what becomes of it. */
export interface RecipientView {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /** `takes`: something changes · `same`: it has the values already · `leftOut`: by the condition · `stays`: for another reason. */
  readonly standing: 'takes' | 'same' | 'leftOut' | 'stays';
  readonly reasons: readonly Reason[];
  readonly values: readonly {
    readonly field: string;
    readonly fieldName: string;
    readonly before: ValueView;
    readonly after: ValueView;
  }[];
}

/** What the example changes of the record that cascades, so that the rule acts. */
export interface StagedView {
  readonly field: string;
  readonly fieldName: string;
  readonly before: ValueView;
  readonly after: ValueView;
}

/** What a cascade does on one record: who takes what, and who doesn't and why. */
export interface CascadeView {
  readonly rule: { readonly id: string; readonly name: string; readonly sentence: string };
  readonly record: { readonly type: string; readonly id: string; readonly title: string };
  readonly staged: readonly StagedView[];
  /** Keys of fields of the record that may be tried otherwise. */
  readonly watched: readonly string[];
  /** Of a rule at creation: the record that the example makes; `null` where there is nothing to make it under. */
  readonly made: string | null;
  /** `its Loans`. */
  readonly recipientsName: string;
  readonly recipients: readonly RecipientView[];
  /** Why the run would be refused. */
  readonly refusal: string | null;
}

const MADE = '00000000-0000-7000-8000-0000000000ff';

/** Where a cascade is tried: also who would make the change, and when. */
type TrialContext = ViewContext & { readonly facts?: RunContext };

/** What a cascade is tried with. */
export interface CascadeTrial {
  /** Values that the record is given; left out, such that the rule acts. */
  readonly staged?: Readonly<Record<string, WireValue>> | null;
  /** Ids of people, of whom one may be another. */
  readonly people?: readonly string[];
}

/** Works a cascade out on one record, by an edit that makes it act: one that is given, or one that fits. */
export function cascadeView(
  context: TrialContext,
  rule: KeptCascade | ReactingCascade,
  root: Row,
  { staged: given = null, people = [] }: CascadeTrial = {},
): CascadeView {
  const { model } = context;
  const parts = partsOf(rule) as readonly (KeptCascade | ReactingCascade)[];
  const { definition } = rule;
  const base = new Overlay(model, context.store);
  const staged = stagedOf(model, rule, root, { given, people });
  for (const { field, before } of staged)
    base.put({ ...root, values: { ...root.values, [field.key]: before } });
  const after = new Overlay(model, base);
  const creation =
    rule.kind === 'reactingCascade' && rule.moment.kind === 'atCreation'
      ? madeUnder(model, base, rule, root)
      : null;
  const edits: Edit[] = [
    ...(staged.length > 0
      ? [
          {
            kind: 'edit' as const,
            type: root.type,
            id: root.id,
            values: Object.fromEntries(staged.map((one) => [one.field.key, one.after])),
          },
        ]
      : []),
    ...(creation ? [creation] : []),
  ];
  const plan = planAlone(parts);
  const fill = rule.kind === 'keptCascade' ? [rule.id] : [];
  const outcome = runInMemory(
    model,
    after,
    propagate({
      ...{ model, plan, edits, fill, isAlone: true, isEveryPace: true },
      ...(context.facts ? { facts: context.facts } : {}),
    }),
  );
  const made = creation && outcome.kind === 'done' ? after.row(creation.type, creation.id) : undefined;
  const reached = reachedFrom(model, after, definition, root.id);
  const recipient = typeAlong(model, definition.type, definition.route);
  const rows = [...reached]
    .filter((id) => definition.route.length === 0 || id !== root.id)
    .flatMap((id) => after.row(recipient, id) ?? []);
  const handing = {
    source: certain(after.row(root.type, root.id)),
    before: certain(base.row(root.type, root.id)),
  };
  const recipients = rows.map((row) =>
    recipientView(context, parts, base.row(recipient, row.id), row, handing, after),
  );
  const nameOf = namesIn(context);
  return {
    rule: { id: rule.id, name: rule.name, sentence: sentenceOf(model, rule, nameOf) },
    record: { type: root.type, id: root.id, title: titleOf(model, root) },
    staged: staged.map(({ field, before, after: to }) => ({
      ...{ field: field.key, fieldName: field.name },
      ...{ before: valueView(field.type, before, nameOf), after: valueView(field.type, to, nameOf) },
    })),
    watched: watchedOf(model, rule).map(({ key }) => key),
    made: made ? titleOf(model, made) : null,
    recipientsName: recipientsWords(model, definition.type, definition.route, definition.isAllTheWay),
    recipients: recipients.sort(
      (a, b) =>
        Number(b.standing === 'takes') - Number(a.standing === 'takes') || compareText(a.title, b.title),
    ),
    refusal: outcome.kind === 'refused' ? (outcome.problems[0]?.message ?? '') : null,
  };
}

const recordsOf: RowsOf = function* (type, ids) {
  const answer = yield* ask<'records'>({ kind: 'records', set: rowSet(type, ids) });
  return new Map(answer.rows);
};

const reachedFrom = (
  model: Model,
  store: RecordStore,
  { type: source, route, isAllTheWay = false }: Pick<Cascade, 'type' | 'route' | 'isAllTheWay'>,
  id: string,
): Iterable<string> =>
  runInMemory(model, store, walkRoute(model, { source, route, isAllTheWay }, [id], recordsOf)).keys();

function recipientView(
  context: TrialContext,
  parts: readonly (KeptCascade | ReactingCascade)[],
  was: Row | undefined,
  row: Row,
  source: { readonly source: Row; readonly before: Row },
  store: RecordStore,
): RecipientView {
  const { model } = context;
  const nameOf = namesIn({ ...context, store });
  const values = parts.map(({ target }) => ({
    ...{ field: target.key, fieldName: target.name },
    before: valueView(target.type, was?.values[target.key] ?? null, nameOf),
    after: valueView(target.type, row.values[target.key] ?? null, nameOf),
  }));
  const isChanged = values.some(
    ({ before, after }) => JSON.stringify(before.wire) !== JSON.stringify(after.wire),
  );
  const reasons = isChanged ? [] : leftOutBy(context, firstIn(parts), row, store);
  return {
    ...{ type: row.type, id: row.id, title: titleOf(model, row), reasons, values },
    standing: isChanged
      ? 'takes'
      : reasons.length > 0
        ? 'leftOut'
        : isLike(context, parts, { row, ...source }, store)
          ? 'same'
          : 'stays',
  };
}

/** The tests of the condition that leave a record out. */
function leftOutBy(
  { model, ...context }: ViewContext,
  { definition }: KeptCascade | ReactingCascade,
  row: Row,
  store: RecordStore,
): Reason[] {
  const typed = definition.condition ? typeCondition(model, row.type, definition.condition) : null;
  if (!typed?.ok) return [];
  const reader = new RouteReader(model, recordsOf);
  runInMemory(model, store, reader.load([row], fieldsRead(typed.value)));
  return reasonsAgainst(
    model,
    typed.value,
    (field) => reader.read(row, field),
    namesIn({ model, ...context, store }),
  );
}

/** Whether all values that are cascaded stand there already: nothing else keeps it from taking them. */
function isLike(
  { model, facts }: TrialContext,
  parts: readonly (KeptCascade | ReactingCascade)[],
  { row, source, before }: { readonly row: Row; readonly source: Row; readonly before: Row },
  store: RecordStore,
): boolean {
  return parts.every((part) => {
    if (part.kind === 'keptCascade') return true;
    const read =
      part.value.kind === 'worked'
        ? fieldsRead(part.value.value)
        : part.value.parts.filter((one) => typeof one !== 'string');
    const reader = new RouteReader(model, recordsOf);
    runInMemory(model, store, reader.load([source, before], read));
    const outcome = assignedOutcome(part, { now: source, before, facts: facts ?? null }, reader.read);
    return outcome !== OUTSIDE && sameOutcome(outcome, storedOutcome(row, part.target.key));
  });
}

interface Staged {
  readonly field: Field;
  /** As the record is taken to have been, where it would already be as the rule wants it. */
  readonly before: Value;
  readonly after: Value;
}

interface Trial {
  readonly given: Readonly<Record<string, WireValue>> | null;
  readonly people: readonly string[];
}

/** Changes of the record's own fields: what was given, or what the rule cascades. */
function stagedOf(
  model: Model,
  rule: KeptCascade | ReactingCascade,
  root: Row,
  { given, people }: Trial,
): Staged[] {
  const watched = watchedOf(model, rule);
  const read = Object.entries(given ?? {}).flatMap(([key, wire]): Staged[] => {
    const field = watched.find((one) => one.key === key);
    const parsed = field && parseValue(field.type, wire);
    return field && parsed?.ok ? [{ field, before: root.values[key] ?? null, after: parsed.value }] : [];
  });
  if (read.length > 0) return read;
  const [field] = watched;
  if (!field) return [];
  const now = root.values[field.key] ?? null;
  const test =
    rule.kind === 'reactingCascade' && rule.moment.kind === 'onChange'
      ? firstIn(rule.moment.tests)
      : { kind: 'changed' as const, field };
  const mapped = mappedFrom(rule, field, now);
  if (test.kind === 'changed' && mapped !== null) return [{ field, before: now, after: mapped }];
  return [fitting(test, now, people)];
}

/** Of a field by whose options something is cascaded: the next option after its own for which a value is given. */
function mappedFrom({ definition }: KeptCascade | ReactingCascade, field: Field, now: Value): Value {
  const by = definition.assignments.find(
    ({ value, isOff }) => !isOff && value.kind === 'map' && value.field === field.key,
  )?.value;
  if (by?.kind !== 'map' || field.type.kind !== 'choice') return null;
  const keys = field.type.options.map(({ key }) => key);
  const at = keys.findIndex((key) => key === now) + 1;
  const others = [...keys.slice(at), ...keys.slice(0, Math.max(at - 1, 0))];
  return others.find((key) => by.rows.some(({ from }) => from === key)) ?? null;
}

/** Fields of the record that cascades, of which a change is cascaded. */
export function watchedOf(model: Model, rule: KeptCascade | ReactingCascade): Field[] {
  if (rule.kind === 'reactingCascade')
    return rule.moment.kind === 'onChange' ? [...new Set(rule.moment.tests.map(({ field }) => field))] : [];
  const { type, assignments } = rule.definition;
  const keys = assignments.flatMap(({ value, isOff }) => {
    if (isOff) return [];
    if (value.kind === 'map') return [value.field];
    return value.kind === 'expression' &&
      value.expression.kind === 'field' &&
      value.expression.route.length === 0
      ? [value.expression.field]
      : [];
  });
  return [...new Set(keys)].flatMap((key) => model.field(type, key) ?? []);
}

function fitting(test: CompiledTest, now: Value, people: readonly string[]): Staged {
  const { field } = test;
  const isThere = (value: Value) => JSON.stringify(value) === JSON.stringify(now);
  if (test.kind === 'became')
    return { field, before: isThere(test.value) ? other(field, now, 1, people) : now, after: test.value };
  if (test.kind === 'stoppedBeing')
    return { field, before: test.value, after: other(field, test.value, 1, people) };
  const moved = other(field, now, test.kind === 'fell' ? -1 : 1, people);
  return { field, before: now, after: moved };
}

/** Another value of the field: the next option, a day or one more, the opposite; where there is none, empty. */
function other({ type }: Field, now: Value, by: 1 | -1, people: readonly string[]): Value {
  switch (type.kind) {
    case 'choice': {
      const at = type.options.findIndex(({ key }) => key === now);
      return type.options[(at + by + type.options.length) % type.options.length]?.key ?? null;
    }
    case 'choices':
      return Array.isArray(now) && now.length > 0 ? null : type.options.slice(0, 1).map(({ key }) => key);
    case 'person':
      return people.find((id) => id !== now) ?? null;
    case 'yesNo':
      return now !== true;
    case 'number':
      return (Decimal.isDecimal(now) ? now : new Decimal(0)).plus(by);
    case 'rating':
      return Decimal.isDecimal(now) &&
        now.plus(by).lessThanOrEqualTo(type.highest) &&
        now.plus(by).greaterThanOrEqualTo(type.lowest)
        ? now.plus(by)
        : new Decimal(type.lowest);
    case 'money':
      return { amount: (isMoney(now) ? now.amount : new Decimal(0)).plus(by * 100), currency: type.currency };
    case 'date':
      return typeof now === 'string' ? shiftDay(now, by) : '2027-01-01';
    case 'text':
    case 'longText':
      return now === null ? 'Something' : `${now as string}, changed`;
    default:
      return null;
  }
}

/** A record that the example makes under another: one that says what it is and hangs there, and nothing else. */
function madeUnder(
  model: Model,
  store: RecordStore,
  rule: ReactingCascade,
  root: Row,
): Extract<Edit, { kind: 'create' }> | null {
  const { type } = rule.writes;
  const last = lastIn(rule.route);
  const above = rule.route.slice(0, -1);
  const [parent] =
    above.length === 0
      ? [root.id]
      : [...reachedFrom(model, store, { type: rule.source, route: above }, root.id)];
  if (parent === undefined) return null;
  const { name, title } = typeIn(model, type);
  return {
    kind: 'create',
    type,
    id: MADE,
    values: { [title]: `A new ${name.toLowerCase()}`, [last.link]: parent },
  };
}
