import type { WireEdit } from '@/core/engine';
import type { Rule } from '@/core/rules';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { inspections, LINE } from '@/core/testing/inspections';
import { proofOf } from '@/core/testing/proofs';
import { type Expectation, type Proof, runProof } from '@/core/verify';

const model = galleries();
const [silk, one, two] = [uuid('11'), uuid('21'), uuid('22')];
const total = ruleOf(INSURED_TOTAL, 1, 'Insured total');
const wide = ruleOf({ ...INSURED_TOTAL, condition: null }, 1, 'Insured total');

const LOANS = [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
  rowOf(model, 'loan', one, { title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) }),
  rowOf(model, 'loan', two, { title: 'Pots', exhibition: silk, stage: 'requested', insuredValue: gbp(40) }),
];
const stage = (id: string, to: string): WireEdit => ({
  kind: 'edit',
  type: 'loan',
  id,
  values: { stage: to },
});
const totalIs = (amount: string | null, kind: 'becomes' | 'stays' = 'becomes'): Expectation => ({
  ...{ kind, type: 'exhibition', id: silk, field: 'insuredTotal' },
  value: amount === null ? null : { amount, currency: 'GBP' },
});
const run = (rules: readonly Rule[], runs: Proof['runs'], ...expectations: Expectation[]) =>
  runProof(model, rules, proofOf(model, total.id, LOANS, { runs, expectations }));

test('holds where each expectation comes true, whatever the value is written like, over one run or several', () => {
  expect(run([total], [[stage(two, 'agreed')]], totalIs('140.00'))).toEqual({ kind: 'held' });
  expect(run([total], [[stage(two, 'agreed')], [stage(one, 'declined')]], totalIs('40'))).toEqual({
    kind: 'held',
  });
  expect(run([total], [[stage(two, 'declined')]], totalIs('100', 'stays'))).toEqual({ kind: 'held' });
});

test('tells what came instead, by another rule or none', () => {
  const missed = (amount: string | null) => ({
    kind: 'missed',
    missed: [{ found: amount === null ? null : { amount, currency: 'GBP' } }],
  });
  expect(run([wide], [[stage(two, 'agreed')]], totalIs('100'))).toMatchObject(missed('140.00'));
  expect(run([], [[stage(two, 'agreed')]], totalIs('100'))).toMatchObject(missed(null));
  // It stands there at the end, but it came to.
  expect(run([total], [[stage(two, 'agreed')]], totalIs('140', 'stays'))).toMatchObject(missed('140.00'));
});

test('begins as the records would stand with the rules', () => {
  expect(run([wide], [], totalIs('140'))).toEqual({ kind: 'held' });
  expect(run([total], [], totalIs('100'))).toEqual({ kind: 'held' });
});

test('an edit that must be refused is, by its reason; one that isn’t, or another, is told', () => {
  const kept: WireEdit = {
    ...{ kind: 'edit', type: 'exhibition', id: silk },
    values: { insuredTotal: { amount: '1', currency: 'GBP' } },
  };
  const refused = (code: string): Expectation => ({ kind: 'isRefused', run: 0, code });
  expect(run([total], [[kept]], refused('edit.kept'))).toEqual({ kind: 'held' });
  expect(run([], [[kept]], refused('edit.kept'))).toMatchObject({
    kind: 'missed',
    missed: [{ found: null }],
  });
  expect(run([total], [[kept]], refused('edit.version'), totalIs('100'))).toMatchObject({
    missed: [
      { found: { problems: [{ code: 'edit.kept' }] } },
      { found: { problems: [{ code: 'edit.kept' }] } },
    ],
  });
});

test('what hangs on fields that are gone, or on rules that don’t fit, is told as such', () => {
  const gone: Expectation = { ...totalIs('100'), field: 'gone' } as Expectation;
  expect(run([total], [], gone)).toEqual({ kind: 'unfit', lost: 0 });
  const broken = ruleOf({ ...INSURED_TOTAL, target: 'gone' }, 1);
  expect(run([broken], [], totalIs('100'))).toMatchObject({ kind: 'unsound' });
});

test('what a rule makes, and what it doesn’t', () => {
  const of = inspections();
  const vase = uuid('1');
  const line = ruleOf({ ...LINE, making: 'directly' as const }, 1);
  const records = [rowOf(of, 'artefact', vase, { title: 'Vase', sort: 'tool', maker: 'Anning' })];
  const edit = (sort: string): WireEdit => ({ kind: 'edit', type: 'artefact', id: vase, values: { sort } });
  const proved = (runs: Proof['runs'], ...expectations: Expectation[]) =>
    runProof(of, [line], proofOf(of, line.id, records, { runs, expectations }));
  const isMade = (maker: string): Expectation => ({
    kind: 'isMade',
    rule: line.id,
    source: vase,
    values: { maker },
  });
  const isNotMade: Expectation = { kind: 'isNotMade', rule: line.id, source: vase };
  expect(proved([[edit('painting')]], isMade('Anning'))).toEqual({ kind: 'held' });
  expect(proved([[edit('painting')]], isMade('Brandt'))).toMatchObject({ missed: [{ found: 'Anning' }] });
  expect(proved([[edit('paper')], [edit('tool')]], isNotMade)).toEqual({ kind: 'held' });
  expect(proved([[edit('painting')]], isNotMade)).toMatchObject({ kind: 'missed' });
});
