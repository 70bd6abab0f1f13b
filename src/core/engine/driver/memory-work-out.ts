import { evaluatorOf, Failure, OUTSIDE, type Outside } from '@/core/expression';
import { type Model } from '@/core/model';
import {
  type Accumulator,
  type Aggregated,
  type CompiledAlone,
  type CompiledMap,
  type CompiledRollUp,
  type CompiledRule,
  FAILED,
  isAlone,
  isDue,
  isOfHalf,
  isReacting,
  type CompiledSource,
  groupableLink,
  type Reader,
  sameAccumulator,
  writtenAt,
} from '@/core/rules';
import { certain, firstIn, foundIn, isError, type Outcome } from '@/core/values';
import { getOrCreate } from './columns';
import type { RecordStore } from './memory-store';
import { type Answers, type Work, type WorkedOut } from './need';
import { ColumnarRollUp } from './columnar-roll-up';
import { type Row, sameOutcome, storedOutcome } from './record';
import {
  broughtInMemory,
  finderOf,
  membersOf,
  outcomeAlone,
  readerOf,
  rollUpInMemory,
} from './memory-reader';

/**
 * Rules over the same link: many targets over columns of all children; few, or those of which the columns can't tell, from
 * their children's rows, which are brought out once for all rules. A rule over anything else stands alone.
 */
export function workOutInMemory(model: Model, store: RecordStore, work: readonly Work[]): Answers['workOut'] {
  const changed: WorkedOut[] = [];
  const outside: { rule: CompiledRule; id: string }[] = [];
  const reader = readerOf(model, store);
  const all = idsOf(work);
  const [{ rule: first }] = work as [Work];
  if (isAlone(first)) return formulaInMemory(model, store, first, all);
  const { writes } = firstIn(work).rule;
  const plain = work.find(({ rule }) => groupableLink(rule) !== null);
  const beneath = plain ? columnsBeneath(model, store, plain.rule, all.size) : null;
  const wanted = rollUpsIn(work).map(({ rule, targets }) => ({
    ...{ rule, ids: targets.ids.length === all.size ? null : new Set(targets.ids) },
    ofParent: (groupableLink(rule) && beneath?.byColumns.workOut(rule)) ?? null,
    keptBeside: store.notes.accumulators(rule),
  }));
  for (const id of all) {
    const row = store.row(writes.type, id);
    if (row?.deleted || (!row && store.isWhole)) continue;
    const parent = beneath && !beneath.stirred.has(id) ? beneath.byColumns.parent(id) : null;
    const known = new Map<string, readonly Row[] | Outside>();
    const rowsOf = (source: CompiledSource) =>
      getOrCreate(known, source.key, () => membersOf(store, source, id));
    for (const { rule, ids, ofParent, keptBeside } of wanted) {
      if (ids && !ids.has(id)) continue;
      const isOwn = row ? isOfHalf(rule.half, row, reader) : true;
      if (isOwn === OUTSIDE) outside.push({ rule, id });
      if (isOwn !== true) continue;
      const isClaimed =
        row && rule.claims ? evaluatorOf(rule.claims)(row, reader.given, reader.beneath) : true;
      if (isClaimed === OUTSIDE) {
        outside.push({ rule, id });
        continue;
      }
      if (isClaimed !== true) {
        const before = storedOutcome(certain(row), rule.writes.field);
        // It claims nothing: what stands there stands, but for an error of its own.
        if (isError(before)) changed.push({ rule, id, before, after: { value: null }, accumulator: null });
        continue;
      }
      const kept = row ? keptBeside(id) : undefined;
      const isColumned =
        parent !== null && row && store.hasAllChildren(firstIn(firstIn(rule.sources).route), id);
      const brought = row
        ? ((isColumned ? ofParent?.(parent, kept) : null) ?? broughtInMemory(rule, row, reader, rowsOf))
        : OUTSIDE;
      if (brought !== OUTSIDE && isReacting(rule)) {
        const reaction = reactionOf({ model, store, rule, row: certain(row), reader }, brought.outcome);
        if (reaction === OUTSIDE) outside.push({ rule, id });
        else if (reaction) changed.push(reaction);
      } else if (brought === OUTSIDE) outside.push({ rule, id });
      else if (differs(rule, certain(row), brought, kept))
        changed.push({
          rule,
          id,
          before: storedOutcome(certain(row), rule.writes.field),
          after: brought.outcome,
          accumulator: brought.accumulator,
        });
    }
  }
  return { changed, outside };
}

interface Reacting {
  readonly model: Model;
  readonly store: RecordStore;
  readonly rule: CompiledRollUp & { readonly map: CompiledMap };
  readonly row: Row;
  readonly reader: Reader<Row>;
}

/**
 * What a rule that reacts makes of its result: `null` where that stays at the row of its map that it was at. An error counts where it is
 * new, or where it can't be told whether the rule applies.
 */
function reactionOf(given: Reacting, result: Outcome): WorkedOut | null | Outside {
  const { rule, row, reader } = given;
  const { map, whenNone, writes, appliesWhen } = rule;
  const was = rowBefore(given);
  if (was === OUTSIDE) return OUTSIDE;
  const now = rowNumber(result);
  const before = storedOutcome(row, writes.field);
  const worked = { rule, id: row.id, before, accumulator: null, row: now };
  const failed = { ...worked, after: { error: 'input_has_problem' } as const };
  if (now === FAILED && was !== FAILED) return failed;
  if (!isDue(map, whenNone, was, now)) return was === now ? null : { ...worked, after: before };
  const applies = appliesWhen ? evaluatorOf(appliesWhen)(row, reader.given, reader.beneath) : true;
  if (applies === OUTSIDE) return OUTSIDE;
  if (applies instanceof Failure) return failed;
  return { ...worked, after: applies === true ? { value: writtenAt(map, whenNone, now) ?? null } : before };
}

const rowNumber = (outcome: Outcome): number => (isError(outcome) ? FAILED : Number(outcome.value));

/** The row that a rule was at before the run: as it was noted, else worked out on the records beneath; `null` where there was none. */
function rowBefore({ model, store, rule, row }: Reacting): number | null | Outside {
  const noted = store.notes.row(rule.id, row.id);
  if (noted !== undefined) return noted;
  const before = store.beneath?.row(row.type, row.id);
  if (!before || before.deleted) return null;
  const brought = rollUpInMemory(model, certain(store.beneath), rule, before);
  return brought === OUTSIDE ? OUTSIDE : rowNumber(brought.outcome);
}

/** A stage holds rules of one kind. */
const rollUpsIn = (work: readonly Work[]) =>
  work.flatMap(({ rule, targets }) => (rule.kind === 'rollUp' ? [{ rule, targets }] : []));

/** A formula is worked out for each record by itself. */
function formulaInMemory(
  model: Model,
  store: RecordStore,
  rule: CompiledAlone,
  ids: ReadonlySet<string>,
): Answers['workOut'] {
  const reader = readerOf(model, store);
  const finder = finderOf(store);
  const changed: WorkedOut[] = [];
  const outside: { rule: CompiledRule; id: string }[] = [];
  for (const id of ids) {
    const row = store.row(rule.writes.type, id);
    if (row?.deleted || (!row && store.isWhole)) continue;
    const after = row ? outcomeAlone(rule, row, { reader, finder }) : OUTSIDE;
    if (after === OUTSIDE) {
      outside.push({ rule, id });
      continue;
    }
    const before = storedOutcome(certain(row), rule.writes.field);
    if (!sameOutcome(before, after)) changed.push({ rule, id, before, after, accumulator: null });
  }
  return { changed, outside };
}

/** Columns of the children over a rule's one link, where they serve so many targets; `null` for rules over anything else. */
function columnsBeneath(
  model: Model,
  store: RecordStore,
  rule: CompiledRule,
  targets: number,
): { readonly byColumns: ColumnarRollUp; readonly stirred: ReadonlySet<string> } | null {
  const ref = groupableLink(rule);
  const link = ref && foundIn(model.linksFrom(ref.type), (one) => one.link === ref.link);
  const columns = link && store.columns(link, targets);
  return columns ? { byColumns: new ColumnarRollUp(columns, link.link), stirred: store.stirred(link) } : null;
}

/** The targets of all rules; they are often the same for each. */
function idsOf(work: readonly Work[]): ReadonlySet<string> {
  const ids = new Set<string>();
  for (const targets of new Set(work.map((one) => one.targets))) for (const id of targets.ids) ids.add(id);
  return ids;
}

function differs(
  rule: CompiledRule,
  row: Row,
  { outcome, accumulator }: Aggregated,
  kept: Accumulator | undefined,
): boolean {
  if (!sameOutcome(storedOutcome(row, rule.writes.field), outcome)) return true;
  return accumulator !== null && (kept === undefined || !sameAccumulator(kept, accumulator));
}
