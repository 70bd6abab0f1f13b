import { downstream } from '@/core/plan';
import { fieldIn, typeIn } from '@/core/model';
import { propagate, runWith, titleOf } from '@/core/engine';
import { type CompiledCreate, type CompiledHandOn, isCreate, isHandOn, type Pilot } from '@/core/rules';
import { type LiveEffect, type LivePreview, planWithDrafts, problemWords, valueView } from '@/core/verify';
import type { ErrorCode } from '@/core/values';
import { proofsTold, readProofs } from '../queries/proofs';
import { findRule, keepsField, latestOf } from '../queries/rules';
import { refuse, Refusal } from '../refusal';
import { effectsOf } from '../intake/effects';
import { SHADOW_RUN, shadowOf } from '../intake/shadow';
import { previewFill } from '../store/fill';
import { actsOnStanding, handOnNow } from '../store/hand-on-now';
import { run, tableOf } from '../store/sql';
import { fromColumn } from '../store/values';
import { inRehearsal } from '../store/transactions';
import { LoadingDriver } from '../store/loading-driver';
import { type LoadedWorkspace, loadWorkspace } from '../store/workspace';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { countsOf } from '../store/make-many';
import { isMadeAsSet, prepareSet, titlesOf } from '../store/make-set';
import { pilotRefused } from './write-rules';
import { askable, checkPrepared, MOST_LOCKED } from './make-asked';

const MOST_SHOWN = 10;

/** What taking a rule's latest version live would change, for all records or as a pilot for some. Saves nothing. */
export async function previewLive(key: string, id: string, pilot: Pilot | null = null): Promise<LivePreview> {
  const known = await loadWorkspace(key);
  return inRehearsal(known, async (transaction, workspace) => {
    const { model } = workspace;
    const stored = await findRule(transaction, workspace.schema, id);
    if (pilot && stored.state === 'live' && stored.pilot === null) throw pilotRefused(stored.name);
    const draft = { ...latestOf(stored), pilot };
    const { plan, problems } = planWithDrafts(model, workspace.live, [draft]);
    if (problems.length > 0) throw refuse(409, problems);
    const told = proofsTold(workspace, [latestOf(stored)], await readProofs(transaction, workspace));
    const proofs = { ...told.standings.get(id)!, missed: told.missed };
    const maker = plan.turns.filter(isCreate).find((candidate) => candidate.id === id);
    if (maker)
      return { proofs, effects: [], makes: await wouldMake(transaction, { ...workspace, plan }, maker) };
    const parts = plan.rules.filter((candidate) => candidate.id === id);
    const handing = parts.filter(isHandOn);
    if (handing.length > 0) {
      try {
        return {
          proofs,
          effects: await wouldHandOn(transaction, { ...workspace, plan }, handing),
          makes: null,
        };
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        return { proofs, effects: [], makes: null, actsProblem: error.message };
      }
    }
    const following = new Set(parts.flatMap((part) => downstream(plan, part)));
    const chain = [...parts, ...plan.rules.filter((one) => following.has(one) && one.id !== id)];
    const rules = chain.filter((rule) => !isHandOn(rule));
    const previews = await previewFill({
      transaction,
      schema: workspace,
      rules,
      isKept: keepsField(plan),
      most: MOST_SHOWN,
    });
    const effects = previews.map((preview, index) => {
      const { writes, name } = rules[index]!;
      const type = typeIn(model, writes.type);
      const field = fieldIn(model, writes.type, writes.field);
      const view = (stored: unknown) => valueView(field.type, fromColumn(field.type, stored));
      const largest = preview.largest.map(({ id: record, title, before, after, error }) => ({
        ...{
          id: record,
          title,
          before: view(before),
          after: view(after),
          problem: error === null ? null : problemWords(error as ErrorCode),
        },
      }));
      return {
        ...{
          rule: { id: preview.rule, name },
          type: type.key,
          typeName: type.name,
          plural: type.plural,
          fieldName: field.name,
        },
        ...{ total: preview.total, changed: preview.changed, inError: preview.inError, largest },
      };
    });
    return { proofs, effects, makes: null };
  });
}

/** What a rule would hand on at once from the records that stand: worked out on temporary copies by the statements that would do it. */
async function wouldHandOn(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  parts: readonly CompiledHandOn[],
): Promise<LiveEffect[]> {
  if (!actsOnStanding(parts)) return [];
  const { model } = workspace;
  const shadow = await shadowOf(transaction, workspace, parts[0]!.source);
  const working = { transaction, workspace: shadow, run: SHADOW_RUN, isEveryPace: true };
  const filled = (await handOnNow({ ...working, parts })).filter(({ records }) => records > 0);
  const effects = await effectsOf({ transaction, workspace: shadow, runId: SHADOW_RUN }, filled);
  const found: LiveEffect[] = [];
  for (const { rule, type, typeName, fieldName, records, samples } of effects) {
    const [counted] = await run<{ total: number }>(
      transaction,
      `SELECT count(*)::int AS total FROM ${tableOf(shadow.schema, type)} WHERE deleted_run IS NULL`,
    );
    found.push({
      ...{ rule, type, typeName, plural: typeIn(model, type).plural, fieldName },
      ...{ total: counted!.total, changed: records, inError: 0 },
      largest: samples.map((one) => ({ ...one, problem: null })),
    });
  }
  return found;
}

/** What a rule would make at once for the records that meet its condition. */
async function wouldMake(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: CompiledCreate,
): Promise<NonNullable<LivePreview['makes']>> {
  const { model, plan } = workspace;
  const { name, plural } = typeIn(model, rule.makes);
  const ids = await askable(transaction, workspace, rule, MOST_LOCKED);
  if (ids.length > MOST_LOCKED && isMadeAsSet(rule)) {
    const making = { transaction, workspace, rule };
    const prepared = await prepareSet(making);
    checkPrepared(workspace, rule, prepared);
    const { made, others: proposed } = prepared;
    return { name, plural, made, proposed, titles: await titlesOf(making, prepared, MOST_SHOWN) };
  }
  const asked = new Map([[rule.id, await askable(transaction, workspace, rule)]]);
  const driver = new LoadingDriver(workspace, transaction);
  const outcome = await runWith(
    (need) => driver.answer(need),
    propagate({ model, plan, edits: [], asked, newId, isAlone: true }),
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
    titles: titles.slice(0, MOST_SHOWN),
  };
}
