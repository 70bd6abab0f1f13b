import { stagesOf } from '@/core/engine';
import { type CompiledRule, oneLink } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { type Tell, untold } from '../progress';
import { keepsField } from '../queries/rules';
import { type FillInput, fillRules } from './fill';
import type { LoadedWorkspace } from './workspace';

export interface FillAfterInput {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly run: string;
  /** The type of the records that were written. */
  readonly type: string;
  /** SQL of a query of the parents that those records name, or named before, by a link's key. */
  readonly parents: (link: string) => string;
  readonly tell?: Tell;
  readonly entered?: FillInput['entered'];
  /** What rules that react do; left out where they act on a change of their result. */
  readonly acting?: FillInput['acting'];
}

export interface Filled {
  readonly rule: CompiledRule;
  /** How many values it wrote. */
  readonly records: number;
}

/** Works out what many written records of one type change: their parents, and on from there in the plan's order. */
export async function fillAfter(input: FillAfterInput): Promise<Filled[]> {
  const { transaction, workspace, run, type, parents, entered, acting, tell = untold } = input;
  const { plan } = workspace;
  const filled: Filled[] = [];
  const touched = new Set([type]);
  const stages = stagesOf(plan);
  for (const [done, rules] of stages.entries()) {
    tell({ stage: 'rules', done, of: stages.length });
    const { writes } = rules[0]!;
    const link = rules[0]!.recursion ? null : oneLink(rules[0]!);
    const reached = rules.filter(
      (rule) =>
        rule.reads.some((read) => touched.has(read.type)) ||
        (rule.rates !== null && touched.has(rule.rates.type)) ||
        (rule.kind === 'formula' && touched.has(rule.writes.type)),
    );
    if (reached.length === 0) continue;
    // Rules that read what is far up a route, or records that rules changed, are worked out for every target.
    const isDirect =
      link?.type === type &&
      reached.every((rule) => rule.rates === null || !touched.has(rule.rates.type)) &&
      reached.every((rule) => rule.reads.every((read) => read.type === type || !touched.has(read.type)));
    const counts = await fillRules({
      ...{ transaction, schema: workspace, rules: reached, run, isKept: keepsField(plan) },
      ...(isDirect && link ? { targets: parents(link.link) } : {}),
      ...(entered ? { entered } : {}),
      ...(acting ? { acting } : {}),
    });
    reached.forEach((rule, at) => filled.push({ rule, records: counts[at]! }));
    if (counts.some((count) => count > 0)) touched.add(writes.type);
  }
  return filled;
}
