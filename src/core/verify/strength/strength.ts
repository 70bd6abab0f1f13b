import { freeName } from '@/core/free-name';
import { cutText, firstIn } from '@/core/values';
import type { Row } from '@/core/engine';
import type { Model } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { RollUp, Rule } from '@/core/rules';
import { type Case, CaseSearch, MOST_MADE_UP } from './case-search';
import { type Edge, EDGE_WORDS, edgeOf } from './edge';
import { type Proof, proofThrough, readyProof } from '@/core/verify/proof/proof';
import { plannedWith } from '@/core/verify/rehearsal/planned-rules';
import type { Forgets } from '@/core/verify/rehearsal/run-through';
import { isProvablyEquivalent } from './equivalent-variant';
import { type Variant, variantsOf } from './variants';

/** A case that is worth keeping as a proof. */
export interface ProposedCase extends Case {
  readonly edge: Edge;
  /** What it would notice that no proof does: ways to change the rule, in words. None of a case that is only usual to try. */
  readonly notices: readonly string[];
}

/** How strong the proofs of a rule are. */
export interface Strength {
  /** In how many ways the rule was changed that may matter, and how many of these a proof notices. */
  readonly tried: number;
  readonly noticed: number;
  /** Ways that no proof notices, with cases that would: few cases, each of which notices something that those before it don't. */
  readonly cases: readonly ProposedCase[];
  /** Ways that can't matter: the rule gives the same for all records there may be. */
  readonly same: readonly string[];
  /** Ways that no proof and no case that was made up tells apart, which doesn't mean that there is none. */
  readonly undecided: readonly string[];
}

/** The share of ways to change a rule that a proof notices, in hundredths, rounded down; `null` where there is none that may matter. */
export const shareOf = ({ tried, noticed }: Pick<Strength, 'tried' | 'noticed'>): number | null =>
  tried === 0 ? null : Math.floor((100 * noticed) / tried);

/** How far it has come: through the proofs first, then through cases made up. */
export interface StrengthProgress {
  readonly phase: 'proofs' | 'cases';
  readonly done: number;
  readonly of: number;
}

export interface StrengthInput {
  readonly model: Model;
  readonly rules: readonly Rule[];
  readonly rule: Rule;
  readonly proofs: readonly Proof[];
  /** Only how many are noticed is asked: no cases are looked for. */
  readonly isFigure?: boolean;
}

/**
 * Changes a rule in every way that may matter and runs its proofs against each; for those that all proofs let through it looks for cases that
 * tell the two apart. Yields after each small piece of work, so that whoever runs it may show how far it is, and stop it. A rule that doesn't
 * fit the model or the others has no variants.
 */
export function* strengthOf(input: StrengthInput): Generator<StrengthProgress, Strength> {
  const { model, rules, rule } = input;
  if (buildPlan(model, rules).problems.some((problem) => problem.rule === rule.id)) return NOTHING;
  const variants = [...variantsOf(model, rule), ...forgetfulOf(model, rules, rule)];
  const unnoticed = yield* unnoticedBy(input, variants);
  const isSame = (variant: Variant) =>
    variant.forgets === undefined && isProvablyEquivalent(model, rule.definition, variant.definition);
  const same = unnoticed.filter(isSame);
  const figure = { tried: variants.length - same.length, noticed: variants.length - unnoticed.length };
  if (input.isFigure) return { ...NOTHING, ...figure };
  const open = unnoticed.filter((variant) => !same.includes(variant));
  const search = new CaseSearch(
    model,
    rules,
    rule,
    open.map(({ definition }) => definition),
  );
  const told = yield* tellingCases(search, open);
  const usual = input.proofs.length === 0 ? yield* usualCases(model, rule, search) : [];
  const words = (of: readonly Variant[]) => of.map(({ what }) => what);
  return {
    ...figure,
    cases: [...few(rule, search, told), ...usual],
    same: words(same),
    undecided: words(open.filter((variant) => !told.has(variant))),
  };
}

const NOTHING: Strength = { tried: 0, noticed: 0, cases: [], same: [], undecided: [] };

function* unnoticedBy(
  { model, rules, rule, proofs }: StrengthInput,
  variants: readonly Variant[],
): Generator<StrengthProgress, Variant[]> {
  const ready = proofs.map((proof) => readyProof(model, proof));
  const unnoticed: Variant[] = [];
  for (const [at, variant] of variants.entries()) {
    const planned = plannedWith(rules, rule.id, variant);
    let isNoticed = false;
    for (const proof of ready) {
      isNoticed = proofThrough(proof, planned).kind !== 'held';
      yield { phase: 'proofs', done: at, of: variants.length };
      if (isNoticed) break;
    }
    if (!isNoticed) unnoticed.push(variant);
  }
  return unnoticed;
}

function* tellingCases(
  search: CaseSearch,
  variants: readonly Variant[],
): Generator<StrengthProgress, ReadonlyMap<Variant, Case>> {
  const told = new Map<Variant, Case>();
  const open = new Set(variants);
  for (let number = 0; number < MOST_MADE_UP && open.size > 0; number += 1)
    for (const variant of [...open]) {
      const found = search.telling(number, variant);
      yield { phase: 'cases', done: variants.length - open.size, of: variants.length };
      if (!found) continue;
      told.set(variant, found);
      open.delete(variant);
    }
  return told;
}

/** Of cases those that are needed for all that they notice together: the one that notices most first. */
function few(rule: Rule, search: CaseSearch, told: ReadonlyMap<Variant, Case>): ProposedCase[] {
  const variants = [...told.keys()];
  const notices = new Map(
    [...new Set(told.values())].map((found) => [
      found,
      new Set(
        variants.filter((variant) => told.get(variant) === found || search.wouldNotice(found, variant)),
      ),
    ]),
  );
  const left = new Set(variants);
  const proposed: ProposedCase[] = [];
  while (left.size > 0) {
    const best = firstIn([...notices].sort(([, a], [, b]) => gains(b, left) - gains(a, left)));
    const [found, noticed] = best;
    const news = variants.filter((variant) => noticed.has(variant) && left.has(variant));
    news.forEach((variant) => left.delete(variant));
    notices.delete(found);
    const edges = news.map((variant) => edgeOf(rule.definition, variant));
    proposed.push({
      ...found,
      edge: edges.find((edge) => edge !== 'other') ?? 'other',
      notices: news.map(({ what }) => what),
    });
  }
  return proposed;
}

const gains = (noticed: ReadonlySet<Variant>, left: ReadonlySet<Variant>): number =>
  [...noticed].filter((variant) => left.has(variant)).length;

/** How far cases are made up in search of a usual one. */
const MOST_FOR_USUAL = 300;

/** Cases of a roll-up that a person would try in any event. */
function* usualCases(
  model: Model,
  { definition }: Rule,
  search: CaseSearch,
): Generator<StrengthProgress, ProposedCase[]> {
  if (definition.kind !== 'rollUp') return [];
  const found: ProposedCase[] = [];
  for (const [edge, isWanted] of usualOf(model, definition))
    for (let number = 0; number < MOST_FOR_USUAL; number += 1) {
      const one = search.standing(number, isWanted);
      yield { phase: 'cases', done: number, of: MOST_FOR_USUAL };
      if (!one) continue;
      found.push({ ...one, edge, notices: [] });
      break;
    }
  return found;
}

type Usual = readonly [Edge, (rows: readonly Row[]) => boolean];

/** Of one record alone: nothing is reached, one is that holds what is brought together, or one that holds nothing there. */
function usualOf(model: Model, { type, route, value }: RollUp): Usual[] {
  const [first] = route;
  if (first?.direction !== 'down') return [];
  const field =
    value?.kind === 'field' && value.route.length === 0 ? model.field(first.type, value.field) : undefined;
  const isAlone = (rows: readonly Row[], count: number, isEmpty: boolean) => {
    const children = rows.filter((row) => row.type === first.type && row.values[first.link] !== null);
    const isOne = rows.filter((row) => row.type === type).length === 1 && children.length === count;
    const isAsked = ({ values }: Row) => !field || (values[field.key] === null) === isEmpty;
    return isOne && children.every(isAsked);
  };
  return [
    ['nothingBeneath', (rows) => isAlone(rows, 0, false)],
    ['justOne', (rows) => isAlone(rows, 1, false)],
    ...(field && !field.required
      ? [['emptyValue', (rows: readonly Row[]) => isAlone(rows, 1, true)] as const]
      : []),
  ];
}

/** Most characters of a proof's name. */
const LONGEST_NAME = 80;

/** A text of at most so many characters, which ends with a whole word. */
function inWholeWords(text: string, most: number): string {
  if (text.length <= most) return text;
  const cut = cutText(text, most - 2);
  const end = cut.search(/[\s,:]+\S*$/);
  return `${end > 0 ? cut.slice(0, end) : cut} …`;
}

/** A name for a case that is kept, which no other proof of the rule has. */
export function caseName(
  { edge, gives }: Pick<ProposedCase, 'edge' | 'gives'>,
  taken: readonly string[],
): string {
  const full = `${EDGE_WORDS[edge]}: ${gives[0] ?? ''}`;
  const has = new Set(taken.map((one) => one.toLowerCase()));
  return freeName(
    (number) =>
      number === 1 ? inWholeWords(full, LONGEST_NAME) : `${inWholeWords(full, LONGEST_NAME - 5)} (${number})`,
    (name) => has.has(name.toLowerCase()),
  );
}

const FORGETTING: Readonly<Record<Forgets, string>> = {
  deletions: 'not worked out again when a record is deleted',
  moves: 'not worked out again when a record moves to another parent',
  clearing: 'not worked out again when a value is emptied',
};

/** What an event script that does the same would forget: of rules that keep their fields, as far as they read what may go so. */
function forgetfulOf(model: Model, rules: readonly Rule[], rule: Rule): Variant[] {
  const { plan } = buildPlan(model, rules);
  const parts = buildPlan(model, [rule]).plan.rules.filter(({ kind }) => kind !== 'reactingCascade');
  const reads = parts.flatMap((part) => part.reads);
  const isDown = reads.some(({ path }) => path.some(({ direction }) => direction === 'down'));
  const isEmptied = reads.some((ref) => {
    const read = plan.keeper(ref) ? undefined : model.field(ref.type, ref.field);
    return read !== undefined && !['link', 'yesNo'].includes(read.type.kind) && read.required !== true;
  });
  const forgets: Forgets[] = [
    ...(isDown ? (['deletions'] as const) : []),
    ...(reads.some(({ path }) => path.length > 0) ? (['moves'] as const) : []),
    ...(isEmptied ? (['clearing'] as const) : []),
  ];
  return forgets.map((one) => ({ definition: rule.definition, forgets: one, what: FORGETTING[one] }));
}
