import {
  walkRoute,
  ask,
  type Edit,
  Overlay,
  propagate,
  readerOf,
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
  evaluatorOf,
  Failure,
  fieldsRead,
  OUTSIDE,
  type Reason,
  reasonsAgainst,
  type RunContext,
  typeCondition,
} from '@/core/expression';
import { type Model, typeAlong, typeIn } from '@/core/model';
import { planAlone } from '@/core/plan';
import {
  type Cascade,
  type ReactingCascade,
  type KeptCascade,
  assignedOutcome,
  partsOf,
  sentenceOf,
  recipientsWords,
  writtenFrom,
} from '@/core/rules';
import { certain, compareText, firstIn, lastIn, type Outcome } from '@/core/values';
import { namesIn, valueView, type ValueView, type ViewContext } from './views';
import { type CascadeTrial, stagedOf, watchedOf } from './cascade-trial';

/** A record that may take values, and what becomes of it. */
export interface RecipientView {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /**
   * `takes`: something changes · `same`: it has the values already · `leftOut`: by the condition · `overruled`: another that cascades to it
   * comes first · `stays`: for another reason.
   */
  readonly standing: 'takes' | 'same' | 'leftOut' | 'overruled' | 'stays';
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
export type TrialContext = ViewContext & { readonly facts?: RunContext };

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

/** What stands on the way of a route, by asking for it. */
export const rowsAlong: RowsOf = function* (type, ids) {
  const answer = yield* ask<'records'>({ kind: 'records', set: rowSet(type, ids) });
  return new Map(answer.rows);
};

/** Records that a cascade leads to from one. */
export const reachedFrom = (
  model: Model,
  store: RecordStore,
  { type: source, route, isAllTheWay = false }: Pick<Cascade, 'type' | 'route' | 'isAllTheWay'>,
  id: string,
): Iterable<string> =>
  runInMemory(model, store, walkRoute(model, { source, route, isAllTheWay }, [id], rowsAlong)).keys();

/** What becomes of a record that may take values, and why it doesn't where it doesn't. */
export function recipientView(
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
    standing: standingOf(),
  };

  function standingOf(): RecipientView['standing'] {
    if (reasons.length > 0) return 'leftOut';
    if (isOverruled({ model, store }, parts, { row, source: source.source, isChanged })) return 'overruled';
    return isChanged ? 'takes' : standingAsItIs(context, parts, { row, ...source }, store);
  }
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
  const reader = new RouteReader(model, rowsAlong);
  runInMemory(model, store, reader.load([row], fieldsRead(typed.value)));
  return reasonsAgainst(
    model,
    typed.value,
    (field) => reader.read(row, field),
    namesIn({ model, ...context, store }),
  );
}

/** Whether all values that are cascaded stand there already: nothing else keeps it from taking them. */
function standingAsItIs(
  { model, facts }: TrialContext,
  parts: readonly (KeptCascade | ReactingCascade)[],
  { row, source, before }: { readonly row: Row; readonly source: Row; readonly before: Row },
  store: RecordStore,
): 'same' | 'stays' {
  if (fromSeveral(parts).some((part) => givesTo({ model, store }, part, source) === null)) return 'stays';
  const isLike = parts.every((part) => {
    if (part.kind === 'keptCascade') return true;
    const read =
      part.value.kind === 'worked'
        ? fieldsRead(part.value.value)
        : part.value.parts.filter((one) => typeof one !== 'string');
    const reader = new RouteReader(model, rowsAlong);
    runInMemory(model, store, reader.load([source, before], read));
    const outcome = assignedOutcome(part, { now: source, before, facts: facts ?? null }, reader.read);
    return outcome !== OUTSIDE && sameOutcome(outcome, storedOutcome(row, part.target.key));
  });
  return isLike ? 'same' : 'stays';
}

const fromSeveral = (parts: readonly (KeptCascade | ReactingCascade)[]) =>
  parts.flatMap((part) => (part.kind === 'keptCascade' && part.several ? [part] : []));

/** Whether something else than what one of several that may cascade to a record has to give stands there, or came to stand there. */
function isOverruled(
  context: Pick<ViewContext, 'model' | 'store'>,
  parts: readonly (KeptCascade | ReactingCascade)[],
  { row, source, isChanged }: { readonly row: Row; readonly source: Row; readonly isChanged: boolean },
): boolean {
  return fromSeveral(parts).some((part) => {
    const gives = givesTo(context, part, source);
    return gives === null ? isChanged : !sameOutcome(gives, storedOutcome(row, part.target.key));
  });
}

/** What one of several that may cascade to a record has to give; `null` where that is nothing, or can't be told here. */
function givesTo(
  { model, store }: Pick<ViewContext, 'model' | 'store'>,
  part: KeptCascade,
  source: Row,
): Outcome | null {
  const { given, value } = certain(part.several);
  const reader = readerOf(model, store);
  if (given && evaluatorOf(given)(source, reader.given, reader.beneath) !== true) return null;
  const worked = evaluatorOf(value)(source, reader.given, reader.beneath);
  return worked === OUTSIDE || worked instanceof Failure ? null : writtenFrom(part, worked);
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
