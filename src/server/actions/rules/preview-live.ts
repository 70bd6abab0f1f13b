import { firstIn, itemAt, type ErrorCode, writeCount } from '@/core/values';
import { downstream, reactingTo } from '@/core/plan';
import { fieldIn, typeIn } from '@/core/model';
import { propagate, runWith, titleOf } from '@/core/engine';
import {
  type CompiledCreate,
  type ReactingCascade,
  type CompiledRule,
  isCreate,
  isReacting,
  isReactingCascade,
  type Pilot,
  type Rule,
} from '@/core/rules';
import { planWithDrafts, problemWords, valueView } from '@/core/verify';
import { type JointPreview, type LiveEffect, type LivePreview } from '@/core/api';
import { proofsOnTaking } from '@/server/queries/rules/proofs';
import { findRules, latestOf, type StoredRule } from '@/server/queries/rules/rules';
import { keepsField } from '@/server/store/write/keeps-field';
import { refuse, Refusal } from '@/server/refusal';
import { effectsOf } from '@/server/intake/effects';
import { SHADOW_RUN, shadowOf } from '@/server/intake/shadow';
import { type FillPreview, previewedChanges, previewFill } from '@/server/store/sets/preview-fill';
import { changedIn, distributionOf, wordsIn } from '@/server/store/sets/distribution';
import type { RunContext } from '@/core/expression';
import { checkPerson } from '@/server/queries/workspaces/people';
import { csvText } from '@/server/queries/records/export-records';
import { actsOnStanding, cascadeNow } from '@/server/store/bulk/cascade-now';
import { runContextNow } from '@/server/store/write/run-context';
import { run, tableOf } from '@/server/store/sql/sql';
import { fromColumn } from '@/server/store/sql/columns';
import { inRehearsal } from '@/server/store/session/transactions';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { countsOf } from '@/server/store/bulk/make-others';
import { prepareSet, titlesOf } from '@/server/store/sets/bulk-create-sql';
import { takenAs } from './change-state';
import { askable, checkPrepared, MOST_LOCKED } from '@/server/actions/records/make-asked';

const MOST_SHOWN = 10;

/** Rules that would go live, among those that are, in a rehearsal. */
interface GoingAll {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly rules: readonly Rule[];
  readonly stored: readonly StoredRule[];
  /** Who would take them live, and when: now. */
  readonly facts: RunContext;
}

/** One that would. */
interface Going extends GoingAll {
  readonly rule: Rule;
}

export interface PreviewInput {
  /** For which records; left out, for all. */
  readonly pilot?: Pilot | null;
  /** Who would take it live; left out, nobody is named. */
  readonly person?: string | null;
}

const inGoing = <T>(
  key: string,
  id: string,
  input: PreviewInput,
  work: (going: Going) => Promise<T>,
): Promise<T> => inGoingAll(key, [id], input, (going) => work({ ...going, rule: firstIn(going.rules) }));

function inGoingAll<T>(
  key: string,
  ids: readonly string[],
  { pilot = null, person = null }: PreviewInput,
  work: (going: GoingAll) => Promise<T>,
): Promise<T> {
  return loadWorkspace(key).then((known) =>
    inRehearsal(known, async (transaction, workspace) => {
      if (person !== null) checkPerson(workspace, person);
      const stored = await findRules(transaction, workspace.schema, ids);
      const rules = takenAs(stored, pilot);
      const { plan, problems } = planWithDrafts(workspace.model, workspace.live, rules);
      if (problems.length > 0) throw refuse(409, problems);
      return work({
        ...{ transaction, rules, stored, facts: runContextNow(person) },
        workspace: { ...workspace, plan },
      });
    }),
  );
}

/** What taking the latest versions of several rules live in one run would change: those that react act from then on. Saves nothing. */
export const previewTogether = (
  key: string,
  ids: readonly string[],
  input: Pick<PreviewInput, 'person'> = {},
): Promise<JointPreview> =>
  inGoingAll(key, ids, input, async (going) => {
    const { transaction, workspace, stored } = going;
    const { standings, missed } = await proofsOnTaking(transaction, workspace, stored.map(latestOf));
    const own = standings.filter(({ rule }) => going.rules.some(({ id }) => id === rule));
    const sum = (of: 'proofs' | 'held') => own.reduce((total, one) => total + one[of], 0);
    const filling = partsOf(going).filter((part) => !isReacting(part));
    const kept = new Set(filling.map(({ id }) => id));
    const effects: LiveEffect[] = [];
    for (const { rule, preview } of await wouldFill(going, filling))
      effects.push(await effectOf(transaction, workspace, rule, preview));
    return {
      proofs: { proofs: sum('proofs'), held: sum('held'), missed },
      fromNowOn: going.rules.filter(({ id }) => !kept.has(id)).map(({ id, name }) => ({ id, name })),
      effects,
    };
  });

/** What taking a rule's latest version live would change, for all records or as a pilot for some. Saves nothing. */
export const previewLive = (key: string, id: string, input: PreviewInput = {}): Promise<LivePreview> =>
  inGoing(key, id, input, async (going) => {
    const { transaction, workspace, stored } = going;
    const told = await proofsOnTaking(transaction, workspace, stored.map(latestOf));
    const proofs = { ...firstIn(told.standings), missed: told.missed };
    const maker = makerOf(going);
    if (maker)
      return { proofs, effects: [], reacting: [], alsoMade: [], makes: await wouldMake(going, maker) };
    const handing = partsOf(going).filter(isReactingCascade);
    if (handing.length > 0) {
      try {
        return { proofs, ...(await wouldCascade(going, handing)), reacting: [], makes: null };
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        return { proofs, effects: [], reacting: [], alsoMade: [], makes: null, actsProblem: error.message };
      }
    }
    const effects: LiveEffect[] = [];
    const filled = await wouldFill(going);
    for (const { rule, preview } of filled)
      effects.push(await effectOf(transaction, workspace, rule, preview));
    const changed = filled.filter(({ preview }) => preview.changed > 0);
    const reacting = reactingTo(
      workspace.plan,
      changed.map(({ rule }) => rule),
    ).map(({ id, name }) => ({ id, name }));
    return { proofs, effects, reacting, alsoMade: [], makes: null };
  });

const partsOf = ({ workspace, rules }: GoingAll): CompiledRule[] =>
  workspace.plan.rules.filter((part) => rules.some(({ id }) => id === part.id));

const makerOf = ({ workspace, rule }: Going): CompiledCreate | undefined =>
  workspace.plan.turns.filter(isCreate).find(({ id }) => id === rule.id);

/** What parts and those that read what they write would give, in temporary tables. */
async function wouldFill(
  going: GoingAll,
  parts: readonly CompiledRule[] = partsOf(going),
): Promise<{ readonly rule: CompiledRule; readonly preview: FillPreview }[]> {
  const { transaction, workspace } = going;
  const { plan } = workspace;
  const following = new Set(parts.flatMap((part) => downstream(plan, part)));
  const chain = [...parts, ...plan.rules.filter((one) => following.has(one) && !parts.includes(one))];
  const rules = chain.filter((rule) => !isReactingCascade(rule));
  const previews = await previewFill({
    ...{ transaction, schema: workspace, rules, isKept: keepsField(plan), most: MOST_SHOWN },
  });
  // What stays live beside a pilot changes only where it takes records back from one.
  return previews.flatMap((preview, at) => {
    const rule = itemAt(rules, at);
    return rule.half?.isOutside && preview.changed === 0 ? [] : [{ rule, preview }];
  });
}

async function effectOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: CompiledRule,
  { total, changed, inError, largest, table }: FillPreview,
): Promise<LiveEffect> {
  const { model } = workspace;
  const { writes, name } = rule;
  const type = typeIn(model, writes.type);
  const field = fieldIn(model, writes.type, writes.field);
  const view = (stored: unknown) => valueView(field.type, fromColumn(field.type, stored));
  return {
    rule: { id: rule.id, name },
    ...{ type: type.key, typeName: type.name, plural: type.plural, fieldName: field.name },
    ...{ total, changed, inError },
    spread: await distributionOf({ transaction, workspace, rule, table, changed: changed - inError }),
    largest: largest.map(({ id: record, title, before, after, error }) => ({
      ...{ id: record, title, before: view(before), after: view(after) },
      problem: error === null ? null : problemWords(error as ErrorCode),
    })),
  };
}

/** Records of a page of the file of changes. */
const PAGE = 2_000;
/** Most changes that go into one file. */
const MOST_LISTED = 500_000;

/**
 * All that taking a rule live would change, as CSV (RFC 4180): a line for each field of a record, with its value before and after. Of a rule that hands
 * on or makes records what it would do at once, for those that match already. Refuses more than a file is to hold.
 */
export const previewFile = (key: string, id: string, input: PreviewInput = {}): Promise<string> =>
  inGoing(key, id, input, async (going) => {
    const { transaction, workspace } = going;
    const lines: string[][] = [];
    const add = (line: string[]) => {
      if (lines.push(line) > MOST_LISTED)
        throw new Refusal(
          422,
          'preview.size',
          `More than ${writeCount(MOST_LISTED)} values would change: more than a file is to hold. Try it as a pilot, or look at the count and the largest.`,
        );
    };
    const maker = makerOf(going);
    if (maker) {
      const { name, titles } = await wouldMake(going, maker, MOST_LISTED);
      for (const title of titles) add([maker.name, name, title, '', '', '', 'would be made', '']);
    }
    const handing = partsOf(going).filter(isReactingCascade);
    if (handing.length > 0)
      for (const { rule, typeName, fieldName, largest } of (await wouldCascade(going, handing, MOST_LISTED))
        .effects)
        for (const { id: record, title, before, after } of largest)
          add([rule.name, typeName, title, fieldName, before.text, after.text, '', record]);
    else if (!maker)
      for (const { rule, preview } of await wouldFill(going)) {
        const { name: typeName } = typeIn(workspace.model, rule.writes.type);
        const field = fieldIn(workspace.model, rule.writes.type, rule.writes.field);
        const pages = previewedChanges({ transaction, schema: workspace, rule, table: preview.table }, PAGE);
        for await (const page of pages) {
          const values = page.map(({ before, after }) =>
            [before, after].map((stored) => fromColumn(field.type, stored)),
          );
          const words = await wordsIn({ transaction, workspace, rule }, values.flat());
          page.forEach(({ id: record, title, error }, at) =>
            add([
              ...[rule.name, typeName, title, field.name],
              ...itemAt(values, at).map((value) => (value === null ? '' : words(value))),
              ...[error === null ? '' : problemWords(error as ErrorCode), record],
            ]),
          );
        }
      }
    return csvText([['Rule', 'Type', 'Record', 'Field', 'Before', 'After', 'Note', 'id'], ...lines]);
  });

/** What a rule would cascade at once from the records that stand: worked out on temporary copies by the statements that would do it. */
async function wouldCascade(
  { transaction, workspace, facts }: Going,
  parts: readonly ReactingCascade[],
  most = MOST_SHOWN,
): Promise<Pick<LivePreview, 'effects' | 'alsoMade'>> {
  if (!actsOnStanding(parts)) return { effects: [], alsoMade: [] };
  const { model } = workspace;
  const shadow = await shadowOf(transaction, workspace, {
    types: [firstIn(parts).source],
    person: facts.person,
  });
  const working = { transaction, workspace: shadow, run: SHADOW_RUN, isEveryPace: true };
  const filled = (await cascadeNow({ ...working, parts })).filter(({ records }) => records > 0);
  const effects = await effectsOf({ transaction, workspace: shadow, runId: SHADOW_RUN }, filled, most);
  const found: LiveEffect[] = [];
  const alsoMade = filled.flatMap(({ rule, records: made }) => {
    if (!isCreate(rule)) return [];
    const { name, plural } = typeIn(model, rule.makes);
    return [{ rule: { id: rule.id, name: rule.name }, name, plural, made }];
  });
  const handed = filled.flatMap(({ rule }) => (isCreate(rule) ? [] : [rule]));
  for (const { rule, type, typeName, fieldName, records, samples } of effects) {
    if (fieldName === null) continue;
    const of = itemAt(handed, found.length);
    const table = await changedIn(transaction, shadow, of, SHADOW_RUN);
    const counted = firstIn(
      await run<{ total: number }>(
        transaction,
        `SELECT count(*)::int AS total FROM ${tableOf(shadow.schema, type)} WHERE deleted_run IS NULL`,
      ),
    );
    found.push({
      ...{ rule, type, typeName, plural: typeIn(model, type).plural, fieldName },
      ...{ total: counted.total, changed: records, inError: 0 },
      spread: await distributionOf({
        ...{ transaction, workspace: shadow, rule: of, table, changed: records, which: 'true' },
      }),
      largest: samples.map((one) => ({ ...one, problem: null })),
    });
  }
  return { effects: found, alsoMade };
}

/** What a rule would make at once for the records that meet its condition. */
async function wouldMake(
  { transaction, workspace, facts }: Going,
  rule: CompiledCreate,
  most = MOST_SHOWN,
): Promise<NonNullable<LivePreview['makes']>> {
  const { model, plan } = workspace;
  const { name, plural } = typeIn(model, rule.makes);
  const ids = await askable(transaction, workspace, rule);
  if (ids.length > MOST_LOCKED) {
    const making = { transaction, workspace, rule, facts };
    const prepared = await prepareSet(making);
    checkPrepared(rule, prepared);
    const { made, others: proposed } = prepared;
    return { name, plural, made, proposed, titles: await titlesOf(making, prepared, most) };
  }
  const asked = new Map([[rule.id, ids]]);
  const driver = new SnapshotDriver(workspace, transaction);
  const outcome = await runWith(
    (need) => driver.answer(need),
    propagate({ model, plan, edits: [], asked, newId, facts, isAlone: true }),
  );
  if (outcome.kind === 'refused') throw refuse(409, outcome.problems);
  const { events, proposals } = outcome.ripple;
  const made = events.filter((event) => event.rule === rule.id && event.kind === 'created');
  const titles = [
    ...made.map(({ type, id }) => driver.overlay.row(type, id)),
    ...proposals.map(({ source }) => driver.overlay.row(source.type, source.id)),
  ].flatMap((row) => (row ? [titleOf(model, row)] : []));
  return {
    ...{ name, plural },
    ...countsOf(outcome.ripple),
    titles: titles.slice(0, most),
  };
}
