import type { EditProblem } from '@/core/engine';
import type { RuleProblem } from '@/core/plan';
import { refuse, type Refusal } from '@/server/refusal';

/** Problems that say that what was seen has changed meanwhile, rather than that the request is wrong. */
const CONFLICTS: ReadonlySet<string> = new Set([
  ...['edit.version', 'edit.deleted', 'edit.exists', 'edit.made'],
  ...['delete.children', 'restore.there', 'value.taken'],
]);

/** Edits that can't be done: the same whether they are saved or rehearsed. */
export function refuseEdits(problems: readonly EditProblem[]): Refusal {
  if (problems.every(({ code }) => code === 'edit.gone')) return refuse(404, problems);
  return refuse(problems.some(({ code }) => CONFLICTS.has(code)) ? 409 : 422, problems);
}

/** Rules that can't be: 409 where they don't go together with others, 422 where one is wrong by itself. */
export const refuseRules = (problems: readonly RuleProblem[]): Refusal =>
  refuse(problems.every(({ code }) => code.startsWith('plan.')) ? 409 : 422, problems);
