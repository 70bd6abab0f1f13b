import { typeValue } from '@/core/expression';
import type { Model } from '@/core/model';
import type { FieldRead, OptionTarget, PerOption } from '@/core/rules';
import type { Option } from '@/core/values';

/** An option whose records have a field of their own, while it is chosen: `undefined` while it isn't, `null` where none is chosen. */
export interface OptionDraft {
  readonly option: string | null | undefined;
  readonly target: string | null;
}

/** A field for each option, while it is chosen; the first option's records go into the rule's target. */
export interface PerOptionDraft {
  readonly by: FieldRead | null;
  readonly option: string | null | undefined;
  readonly others: readonly OptionDraft[];
}

/** A field for each option, or `null` while a part isn't chosen. */
export function optionsChosen({ by, option, others }: PerOptionDraft): PerOption | null {
  const chosen = others.flatMap((one): OptionTarget[] =>
    one.option === undefined || one.target === null ? [] : [{ option: one.option, target: one.target }],
  );
  if (!by || option === undefined || chosen.length < others.length) return null;
  return { by, option, others: chosen };
}

/** The options by which records are told apart; `null` where what is read isn't a choice. */
export function optionsRead(
  model: Model,
  members: string | null,
  by: FieldRead | null,
): readonly Option[] | null {
  const typed = members && by ? typeValue(model, members, by, { isAlone: true }) : null;
  return typed?.ok && typed.value.type.kind === 'choice' ? typed.value.type.options : null;
}

/** A field for each option stays as long as the records have the choice by which they are told apart. */
export const settledOptions = (
  model: Model,
  members: string | null,
  perOption: PerOptionDraft | null,
): PerOptionDraft | null =>
  members && perOption?.by && !optionsRead(model, members, perOption.by) ? null : perOption;
