import type { WireEdit } from '@/core/engine';
import type { RuleDefinition } from '@/core/rules';
import { rowOf, uuid } from '@/core/testing/galleries';
import { proofOf } from '@/core/testing/proofs';
import { numbered } from '@/core/testing/rule-desk';
import { CLOSED, LATE, REMINDER, SEEN_LATE, signing } from '@/core/testing/signing';
import {
  type Expectation,
  PlannedRules,
  type Proof,
  runProof,
  runScheduleOf,
  describeProof,
} from '@/core/verify';

const model = signing();
const [tax, ada, ben] = [uuid('11'), uuid('a'), uuid('b')];
const ROWS = [rowOf(model, 'file', tax, { title: 'Tax', state: 'open', due: '2027-04-01' })];
const rules = numbered<RuleDefinition>([CLOSED, LATE, SEEN_LATE, REMINDER]);
const to = (state: string): WireEdit[] => [{ kind: 'edit', type: 'file', id: tax, values: { state } }];
const is = (field: string, value: string | boolean | null): Expectation => ({
  ...{ kind: 'becomes', type: 'file', id: tax, field },
  value,
});
const proof = (more: Partial<Proof>): Proof => ({
  ...proofOf(model, rules[0]!.id, ROWS, more),
  people: [ada, ben],
});
const held = (more: Partial<Proof>) => runProof(model, rules, proof(more));

test('each save stands on its day, a minute after the one before, by whoever acts from then on', () => {
  const settings = [
    { run: 0, person: ada },
    { run: 2, day: '2027-04-02', person: ben },
  ];
  expect(runScheduleOf(4, '2027-03-31', settings)).toEqual([
    { day: '2027-03-31', facts: { person: ada, moment: '2027-03-31T12:00:00.000Z' } },
    { day: '2027-03-31', facts: { person: ada, moment: '2027-03-31T12:01:00.000Z' } },
    { day: '2027-04-02', facts: { person: ben, moment: '2027-04-02T12:02:00.000Z' } },
    { day: '2027-04-02', facts: { person: ben, moment: '2027-04-02T12:03:00.000Z' } },
  ]);
  expect(runScheduleOf(1, '2027-03-31')[0]!.facts.person).toBeNull();
  expect(runScheduleOf(1_000, '2027-03-31').at(-1)!.facts.moment).toBe('2027-03-31T23:59:00.000Z');
});

test('a proof pins who acts, and when', () => {
  const runs = [to('closed')];
  const by = (person: string | null) => [is('closedBy', person), is('closedAt', '2027-03-01T12:00:00.000Z')];
  expect(held({ runs, settings: [{ run: 0, person: ada }], expectations: by(ada) })).toEqual({
    kind: 'held',
  });
  expect(held({ runs, expectations: by(null) })).toEqual({ kind: 'held' });
  expect(held({ runs, settings: [{ run: 0, person: ben }], expectations: by(ada) })).toMatchObject({
    kind: 'missed',
    missed: [{ found: ben }],
  });
});

test('the day turns between two saves, or with nothing else, forward and back', () => {
  const made: Expectation = { kind: 'isMade', rule: rules[3]!.id, source: tax, values: { madeBy: null } };
  const notMade: Expectation = { kind: 'isNotMade', rule: rules[3]!.id, source: tax };
  const april = { run: 0, day: '2027-04-02' };
  const seen = is('seenLate', '2027-04-02T12:00:00.000Z');
  expect(held({ runs: [[]], settings: [april], expectations: [is('late', true), seen, made] })).toEqual({
    kind: 'held',
  });
  const back = [april, { run: 1, day: '2027-03-31' }];
  expect(held({ runs: [[], []], settings: back, expectations: [is('late', false), seen, notMade] })).toEqual({
    kind: 'held',
  });
  expect(held({ runs: [[]], expectations: [is('late', false), notMade] })).toEqual({ kind: 'held' });
});

test('a rule that forgets clearing still goes by the day', () => {
  const forgetful = new PlannedRules(rules, { rule: rules[1]!.id, forgets: 'clearing' });
  const turned = proof({
    ...{ runs: [[]], settings: [{ run: 0, day: '2027-04-02' }] },
    expectations: [is('late', true)],
  });
  expect(describeProof(model, forgetful, turned, () => undefined).isHeld).toBe(true);
});

test('it is told on which day something is done, and by whom where a rule asks', () => {
  const runs = [to('closed'), to('open'), []];
  const settings = [
    { run: 0, person: ada },
    { run: 1, person: ben, day: '2027-04-02' },
    { run: 2, day: '2027-04-03' },
  ];
  const names: Record<string, string> = { [ada]: 'Ada', [ben]: 'Ben' };
  const told = (of: typeof rules) =>
    describeProof(
      model,
      new PlannedRules(of),
      proof({ runs, settings, expectations: [is('late', true)] }),
      (id) => names[id],
    ).saves;
  expect(told(rules)).toEqual([
    ['Ada acts', 'Tax gets State Closed'],
    ['On 2 Apr 2027', 'Ben acts', 'Tax gets State Open'],
    ['On 3 Apr 2027'],
  ]);
  expect(told([rules[1]!])[1]).toEqual(['On 2 Apr 2027', 'Tax gets State Open']);
});
