import { downstream } from '@/core/plan';
import { fieldIn, typeIn } from '@/core/model';
import { isHandOn } from '@/core/rules';
import { type LivePreview, planWithDrafts, problemWords, valueView } from '@/core/verify';
import type { ErrorCode } from '@/core/values';
import { findRule, keepsField, latestOf } from '../queries/rules';
import { refuse } from '../refusal';
import { previewFill } from '../store/fill';
import { fromColumn } from '../store/values';
import { inRehearsal } from '../store/transactions';
import { loadWorkspace } from '../store/workspace';

const MOST_SHOWN = 10;

export async function previewLive(key: string, id: string): Promise<LivePreview> {
  const known = await loadWorkspace(key);
  return inRehearsal(known, async (transaction, workspace) => {
    const { model } = workspace;
    const draft = latestOf(await findRule(transaction, workspace.schema, id));
    const { plan, problems } = planWithDrafts(model, workspace.live, [draft]);
    if (problems.length > 0) throw refuse(409, problems);
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
    return { effects };
  });
}
