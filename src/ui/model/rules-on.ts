import { type Model, typeAlong } from '@/core/model';
import { type AnyCompiled, compileRule, type RuleState } from '@/core/rules';
import type { RuleView } from '@/core/api';

/** A rule with what it touches of the model. */
export interface RuleOnModel {
  readonly id: string;
  readonly name: string;
  readonly state: RuleState;
  readonly compiled: AnyCompiled;
}

/** Rules that stand on the model as it is. */
export const rulesOn = (model: Model, rules: readonly RuleView[]): RuleOnModel[] =>
  rules.flatMap(({ id, name, state, definition }) => {
    const compiled = compileRule(model, { id, version: id, name, definition });
    return compiled.ok ? [{ id, name, state, compiled: compiled.rule }] : [];
  });

/** How a rule uses a field: it writes it, or reads it. */
export function wayOfUse({ compiled }: RuleOnModel, type: string, field: string): 'writes' | 'reads' | null {
  if (compiled.writes.type === type && compiled.writes.field === field) return 'writes';
  if (compiled.kind === 'create' && compiled.makes === type) {
    const { back } = compiled.definition;
    if (field === back || compiled.assigned.some(({ target }) => target.key === field)) return 'writes';
  }
  return compiled.reads.some((read) => read.type === type && read.field === field) ? 'reads' : null;
}

/** The links that a rule goes over: those it brings values up by, and those that its conditions read up. */
export function linesOf(model: Model, { compiled }: RuleOnModel): ReadonlySet<string> {
  const lines = new Set<string>();
  for (const { path } of compiled.reads) {
    for (const [index, step] of path.entries()) {
      const from =
        step.direction === 'down' ? step.type : typeAlong(model, compiled.writes.type, path.slice(0, index));
      lines.add(`${from}.${step.link}`);
    }
  }
  return lines;
}
