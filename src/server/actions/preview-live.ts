import { downstream } from '@/core/plan';
import { fieldIn, typeIn } from '@/core/model';
import { propagate, runWith, titleOf } from '@/core/engine';
import { type CompiledCreate, isCreate, isHandOn } from '@/core/rules';
import { type LivePreview, planWithDrafts, problemWords, valueView } from '@/core/verify';
import type { ErrorCode } from '@/core/values';
import { findRule, keepsField, latestOf } from '../queries/rules';
import { refuse } from '../refusal';
import { previewFill } from '../store/fill';
import { fromColumn } from '../store/values';
import { inRehearsal } from '../store/transactions';
import { LoadingDriver } from '../store/loading-driver';
import { type LoadedWorkspace, loadWorkspace } from '../store/workspace';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { askable, countsOf } from './make-asked';

const MOST_SHOWN = 10;

export async function previewLive(key: string, id: string): Promise<LivePreview> {
  const known = await loadWorkspace(key);
  return inRehearsal(known, async (transaction, workspace) => {
    const { model } = workspace;
    const draft = latestOf(await findRule(transaction, workspace.schema, id));
    const { plan, problems } = planWithDrafts(model, workspace.live, [draft]);
    if (problems.length > 0) throw refuse(409, problems);
    const maker = plan.turns.filter(isCreate).find((candidate) => candidate.id === id);
    if (maker) return { effects: [], makes: await wouldMake(transaction, { ...workspace, plan }, maker) };
    const parts = plan.rules.filter((candidate) => candidate.id === id);
    const following = new Set(parts.flatMap((part) => downstream(plan, part)));
    const chain = [...parts, ...plan.rules.filter((one) => following.has(one) && one.id !== id)];
    const rules = parts.some(isHandOn) ? [] : chain.filter((rule) => !isHandOn(rule));
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
    return { effects, makes: null };
  });
}

/** What a rule would make at once for the records that meet its condition. */
async function wouldMake(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: CompiledCreate,
): Promise<NonNullable<LivePreview['makes']>> {
  const { model, plan } = workspace;
  const { name, plural } = typeIn(model, rule.makes);
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
