import type { Model } from '@/core/model';
import { compileRule, type Formula, type Rule, type RuleDefinition } from '@/core/rules';
import type { ValueType } from '@/core/values';
import type { ReviewFinding, Rewritten } from './finding';

/** Numbers as they are written in FEEL text, outside of names, texts and what has a unit already. */
const NUMBER = /"[^"]*"|[\p{L}_][\p{L}\p{N}_]*|\d*\.?\d+/gu;

/** A formula whose result has a unit, which the field that it goes into doesn't: as cubic metres into money. */
export function* unitDropped(model: Model, rule: Rule): Generator<ReviewFinding> {
  const { definition } = rule;
  if (definition.kind !== 'formula') return;
  const found = resultOf(model, rule, definition);
  if (found?.result.kind !== 'number' || !found.result.unit || found.result.isBare) return;
  const { result, target } = found;
  const into = target.type;
  const isDropped = into.kind === 'money' || (into.kind === 'number' && into.unit === undefined);
  if (!isDropped) return;
  const goal = into.kind === 'money' ? `an amount of ${into.currency}` : 'a number without a unit';
  const rate = into.kind === 'money' ? `${into.currency}/${result.unit}` : `1/${result.unit}`;
  yield {
    code: 'review.unit',
    why: `What the expression gives is in ${result.unit}, and ${target.name} takes it as ${goal}. Say what one ${result.unit} comes to, as in amount(2, "${rate}").`,
    fix: withRate(model, rule, definition, { rate, into }),
  };
}

function resultOf(model: Model, rule: Rule, definition: RuleDefinition) {
  const compiled = compileRule(model, { ...rule, definition });
  if (!compiled.ok || compiled.rule.kind !== 'formula') return null;
  return { result: compiled.rule.value.type, target: compiled.rule.target };
}

interface Wanted {
  readonly rate: string;
  readonly into: ValueType;
}

/** The same with the one number that is a rate written so, where there is exactly one by which the units come out. */
function withRate(model: Model, rule: Rule, formula: Formula, { rate, into }: Wanted): Rewritten | null {
  const { value } = formula;
  if (value?.kind !== 'feel') return null;
  const { text } = value;
  const written = [...text.matchAll(NUMBER)].filter(([token]) => /^[\d.]/.test(token));
  const fitting = written.flatMap((match): Rewritten[] => {
    const [token] = match;
    const put = `amount(${token}, ${JSON.stringify(rate)})`;
    const next = text.slice(0, match.index) + put + text.slice(match.index + token.length);
    const definition = { ...formula, value: { kind: 'feel', text: next } } as const;
    const type = resultOf(model, rule, definition)?.result;
    const fits = type?.kind === into.kind && (type.kind !== 'number' || type.unit === undefined);
    return fits ? [{ label: `Write ${token} as ${rate}`, definition }] : [];
  });
  return fitting.length === 1 ? (fitting[0] ?? null) : null;
}
