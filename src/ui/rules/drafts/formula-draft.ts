import type { Expression } from '@/core/expression';
import type { Model, Pace } from '@/core/model';
import { defaultsFor, type Formula, type Limits } from '@/core/rules';
import type { Rounding } from '@/core/values';

/** A formula while it is being written. */
export interface FormulaDraft {
  readonly type: string | null;
  readonly target: string | null;
  /** FEEL text. */
  readonly text: string;
  readonly appliesWhen: Expression | null;
  /** FEEL text of what stands where it doesn't apply; blank for empty. */
  readonly otherwise: string;
  readonly rounding: Rounding | null;
  readonly limits: Limits | null;
  readonly pace: Pace;
}

export const NEW_FORMULA: FormulaDraft = {
  ...{ type: null, target: null, text: '', appliesWhen: null, otherwise: '', rounding: null, limits: null },
  pace: 'withTheSave',
};

/** A target that is chosen; a new formula begins with the workspace's defaults for it. */
export function withTarget(model: Model, draft: FormulaDraft, target: string): FormulaDraft {
  const field = draft.type === null ? undefined : model.field(draft.type, target);
  const begins = draft.target === null && field ? defaultsFor(model.ruleDefaults, field.type) : {};
  return { ...draft, target, ...begins };
}

const textOf = (expression: Expression | null): string =>
  expression?.kind === 'feel' ? expression.text : '';

export const formulaDraft = (definition: Formula): FormulaDraft => ({
  ...{ type: definition.type, target: definition.target, text: textOf(definition.value) },
  ...{ appliesWhen: definition.appliesWhen, otherwise: textOf(definition.otherwise) },
  ...{ rounding: definition.rounding, limits: definition.limits ?? null, pace: definition.pace },
});

export function formulaOf(draft: FormulaDraft): Formula | null {
  const { type, target, text, appliesWhen, otherwise, rounding, limits, pace } = draft;
  if (!type || !target || text.trim() === '') return null;
  return {
    ...{
      kind: 'formula',
      type,
      target,
      value: { kind: 'feel', text },
      appliesWhen,
      rounding,
      pace,
    },
    ...(limits && (limits.least || limits.most) ? { limits } : {}),
    otherwise: appliesWhen && otherwise.trim() !== '' ? { kind: 'feel', text: otherwise } : null,
  };
}
