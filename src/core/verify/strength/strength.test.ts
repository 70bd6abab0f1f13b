import type { WireEdit } from '@/core/engine';
import type { Model } from '@/core/model';
import type { Rule, RuleDefinition } from '@/core/rules';
import {
  ALL_RULES,
  galleries,
  gbp,
  INSURED_TOTAL,
  rollUp,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { inspections, LINE, TREATMENT } from '@/core/testing/inspections';
import { CRATE, lending, TOP } from '@/core/testing/lending';
import { proofOf } from '@/core/testing/proofs';
import { CASCADES, touring } from '@/core/testing/touring';
import {
  caseName,
  type Expectation,
  type Proof,
  runProof,
  type Strength,
  strengthOf,
  type StrengthProgress,
} from '@/core/verify';

const model = galleries();
const [silk, one, two] = [uuid('11'), uuid('21'), uuid('22')];
const total = ruleOf(INSURED_TOTAL, 1, 'Insured total');

function found(
  of: Model,
  rules: readonly Rule[],
  rule: Rule,
  proofs: readonly Proof[],
  isFigure = false,
): Strength {
  const run = strengthOf({ model: of, rules, rule, proofs, isFigure });
  let step: IteratorResult<StrengthProgress, Strength> = run.next();
  while (!step.done) {
    expect(step.value.done).toBeLessThanOrEqual(step.value.of);
    step = run.next();
  }
  return step.value;
}
const noticedBy = ({ cases }: Strength) => cases.flatMap(({ notices }) => notices);

describe('how strong proofs are', () => {
  const rows = [
    rowOf(model, 'exhibition', silk, {}),
    rowOf(model, 'loan', one, { exhibition: silk, stage: 'agreed', insuredValue: gbp(100) }),
    rowOf(model, 'loan', two, { exhibition: silk, stage: 'agreed', insuredValue: gbp(40) }),
  ];
  const stage = (id: string, to: string): WireEdit => ({
    ...{ kind: 'edit', type: 'loan', id, values: { stage: to } },
  });
  const becomes = (amount: string): Expectation => ({
    ...{ kind: 'becomes', type: 'exhibition', id: silk, field: 'insuredTotal' },
    value: { amount, currency: 'GBP' },
  });
  const weak = proofOf(model, total.id, rows, { expectations: [becomes('140')] });
  const strong = proofOf(model, total.id, rows, {
    ...{ runs: [[stage(two, 'declined')]], expectations: [becomes('100')] },
  });
  const none = proofOf(model, total.id, rows, {
    ...{ runs: [[stage(one, 'requested'), stage(two, 'declined')]], expectations: [becomes('0')] },
  });
  const by = (...proofs: Proof[]) => found(model, [total], total, proofs);

  test('is counted; each further proof leaves less unnoticed, and each case proposed notices what it says', () => {
    const nothing = by();
    expect(nothing).toMatchObject({ noticed: 0, same: [], undecided: [] });
    expect(new Set(noticedBy(nothing)).size).toBe(nothing.tried);
    expect(noticedBy(by(weak))).toContain('without “Stage is Agreed”');
    expect(noticedBy(by(weak))).not.toContain('with the average in place of the sum');
    expect(noticedBy(by(weak, strong))).not.toContain('without “Stage is Agreed”');
    expect(noticedBy(by(weak, strong))).toContain('with nothing where none count');
    const last = by(weak, strong, none);
    // What a script would forget shows only where a record goes, moves or is emptied.
    expect(noticedBy(last).every((way) => way.startsWith('not worked out again'))).toBe(true);
    const kept = last.cases.map(({ family, runs, expectations }) =>
      proofOf(model, total.id, rows, { family, runs, expectations }),
    );
    expect(by(weak, strong, none, ...kept)).toMatchObject({ noticed: last.tried, cases: [] });
  });

  test('asked for the figure alone it is the same, and no case is looked for', () => {
    const { tried, noticed } = by(weak, strong);
    const figure = found(model, [total], total, [weak, strong], true);
    expect(figure).toEqual({ tried, noticed, cases: [], same: [], undecided: [] });
  });

  test('without a proof what one tries in any event is proposed too', () => {
    expect(by().cases.map(({ edge }) => edge)).toEqual(
      expect.arrayContaining(['nothingBeneath', 'justOne', 'emptyValue', 'deleted', 'moved', 'emptied']),
    );
  });

  test('a case is small and told in words', () => {
    const [gone] = by(weak, strong, none).cases.filter(({ edge }) => edge === 'deleted');
    expect(gone!.records.length).toBeLessThanOrEqual(2);
    expect(gone!.edits).toEqual([expect.stringMatching(/^Loan . is deleted$/)]);
    expect(gone!.gives).toEqual([
      expect.stringMatching(/^Insured total of Exhibition . becomes 0.00 GBP, not /),
    ]);
  });
});

test.each<[string, Model, readonly RuleDefinition[]]>([
  ['roll-ups and formulas', model, ALL_RULES.map(({ definition }) => definition)],
  ['cascades', touring(), Object.values(CASCADES)],
  ['create rules', inspections(), [TREATMENT, LINE]],
  ['link rules', lending(), [TOP, CRATE]],
])(
  '%s: cases hold with the rule, and not with any change that they are said to notice',
  (_, of, definitions) => {
    const rules = definitions.map((definition, at) => ruleOf(definition, at + 1));
    let cases = 0;
    for (const rule of rules) {
      const strength = found(of, [rule], rule, []);
      for (const { family, runs, expectations } of strength.cases) {
        const proof = proofOf(of, rule.id, [rowOf(of, rule.definition.type, uuid('e1'), {})], {
          family,
          runs,
          expectations,
          people: Object.keys(family.names),
        });
        expect(runProof(of, [rule], proof)).toEqual({ kind: 'held' });
        cases += 1;
      }
      expect(noticedBy(strength).length + strength.undecided.length).toBe(strength.tried);
    }
    expect(cases).toBeGreaterThan(rules.length);
  },
);

test('a rule that doesn’t fit the model has nothing to prove', () => {
  const wrong = ruleOf(rollUp({ ...INSURED_TOTAL, target: 'gone' }), 1);
  expect(found(model, [wrong], wrong, [])).toMatchObject({ tried: 0, cases: [] });
});

test('names of cases are whole words, and no two read the same', () => {
  const gives = [
    'Insured total of Exhibition A becomes 140.00 GBP, not what it would be with declined loans',
  ];
  const names: string[] = [];
  for (let at = 0; at < 3; at += 1) names.push(caseName({ edge: 'nothingBeneath', gives }, names));
  expect(new Set(names).size).toBe(3);
  for (const name of names) {
    expect(name.length).toBeLessThanOrEqual(80);
    const words = name.replace(/ …( \(\d\))?$/, '').split(' ');
    expect(gives[0]!.split(/[ ,]+/)).toContain(words.at(-1));
  }
});
