/** @jest-environment node */
import {
  galleries,
  gbp,
  GALLERIES,
  INSURED_TOTAL,
  LENT_TOTAL,
  rollUp,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import type { Expression } from '@/core/expression';
import type { Formula, Rule, RuleDefinition } from '@/core/rules';
import { proofOf } from '@/core/testing/proofs';
import { CLOSED, LATE, SEEN_LATE, signing } from '@/core/testing/signing';
import { numbered } from '@/core/testing/rule-desk';
import { type Expectation, type Proof, recordToWire, type WireRecord } from '@/core/verify';
import { RuleWorker, type RuleWorkerSetup, type Staged } from './rule-worker';

const model = galleries();
const [museum, silk, one, two] = [uuid('1'), uuid('11'), uuid('21'), uuid('22')];
const rows = [
  rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
  rowOf(model, 'loan', one, {
    title: 'Robes',
    exhibition: silk,
    lender: museum,
    stage: 'agreed',
    insuredValue: gbp('12250'),
    dueBack: '2026-05-20',
  }),
  rowOf(model, 'loan', two, {
    title: 'Pots',
    exhibition: silk,
    stage: 'declined',
    insuredValue: gbp('900.5'),
  }),
];
const setup: RuleWorkerSetup = {
  ...{
    model: GALLERIES,
    settledDay: '2026-03-14',
    live: [ruleOf(LENT_TOTAL, 9, 'Lent')],
    people: {},
    person: null,
  },
  family: {
    ...{ root: { type: 'exhibition', id: silk }, members: [silk, one, two], names: {} },
    records: rows.map((row) => recordToWire(model, row)),
    complete: [{ type: 'loan', link: 'exhibition', parent: silk }],
  },
};

/** As the worker’s messages do: everything that goes in or out is cloned. */
const ruleWorker = () => {
  const made = new RuleWorker();
  made.open('a', structuredClone(setup));
  return made;
};

test('works a rule out on its family, and hands out plain data', () => {
  const worked = structuredClone(ruleWorker().explain(ruleOf(INSURED_TOTAL, 1)));
  expect(worked).toMatchObject({
    kind: 'worked',
    explanation: { counted: 1, result: { value: { text: '12,250.00 GBP' } } },
  });
});

test('as of another day dated conditions hold for others, also in what live rules keep', () => {
  const due = (operator: '>=' | '<=', plus: number): Expression => ({
    ...{ kind: 'compare', operator, left: { kind: 'field', route: [], field: 'dueBack' } },
    right: { kind: 'day', from: 'today', plus, unit: 'day' },
  });
  const dueSoon = rollUp({
    ...{ type: 'exhibition', target: 'artefactCount', aggregate: 'count', whenNone: '0' },
    route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
    condition: { kind: 'group', operator: 'all', of: [due('>=', 0), due('<=', 45)] },
  });
  const counted = (made: RuleWorker, rule: Rule, day?: string) => {
    const worked = made.explain(rule, day);
    return worked.kind === 'worked' ? worked.explanation.result?.value.text : worked.kind;
  };
  const rule = ruleOf(dueSoon, 1);
  expect([counted(ruleWorker(), rule), counted(ruleWorker(), rule, '2026-04-20')]).toEqual(['0', '1']);
  const made = new RuleWorker();
  made.open('b', { ...setup, live: [ruleOf(dueSoon, 8)] });
  const twice: Formula = {
    ...{ kind: 'formula', type: 'exhibition', target: 'insuredTotal', appliesWhen: null, otherwise: null },
    ...{ value: { kind: 'feel', text: 'artefactCount * 2' }, rounding: null, pace: 'withTheSave' },
  };
  expect(counted(made, ruleOf(twice, 2), '2026-04-20')).toBe('2.00 GBP');
});

test('a rule whose target another keeps is worked out all the same; one in a circle isn’t', () => {
  expect(ruleWorker().explain(ruleOf(LENT_TOTAL, 1)).kind).not.toBe('unsound');
  const circle = ruleOf(
    {
      ...INSURED_TOTAL,
      type: 'institution',
      target: 'lentTotal',
      route: [{ direction: 'down', type: 'institution', link: 'partOf' }],
      value: { kind: 'field', route: ['partOf'], field: 'lentTotal' },
      condition: null,
    },
    2,
  );
  expect(ruleWorker().explain(circle)).toMatchObject({
    kind: 'unsound',
    messages: expect.arrayContaining([expect.stringMatching(/run in a circle/)]) as unknown,
  });
});

const staged = (runs: Staged['runs'], settings: Staged['settings'] = []): Staged => ({ runs, settings });

test('rehearses staged edits: what of the family would stand otherwise, what is outside, and nothing kept', () => {
  const bench = ruleWorker();
  const draft = { id: uuid('d'), name: 'Total', definition: INSURED_TOTAL };
  const edits = [
    { kind: 'edit', type: 'loan', id: two, values: { stage: 'agreed', lender: museum } },
    { kind: 'delete', type: 'loan', id: one },
  ] as const;
  const { rehearsals, changed, gone } = structuredClone(bench.rehearse(staged([edits]), [draft]));
  expect(rehearsals[0]).toMatchObject({
    kind: 'done',
    ripple: { outside: [{ fieldName: 'Lent total', title: 'Kestrel Museum' }] },
  });
  expect(changed.map(({ id }) => id).sort()).toEqual([silk, two]);
  expect(gone).toEqual([one]);
  expect(changed.find(({ id }) => id === silk)!.values.insuredTotal).toEqual({
    amount: '900.50',
    currency: 'GBP',
  });
  expect(bench.rehearse(staged([]), [])).toMatchObject({ changed: [], gone: [] });
});

test('several saves follow on one another, up to one that is refused', () => {
  const bench = ruleWorker();
  const draft = { id: uuid('d'), name: 'Total', definition: INSURED_TOTAL };
  const gone = { kind: 'delete', type: 'loan', id: one } as const;
  const back = { kind: 'restore', type: 'loan', id: one } as const;
  const whole = bench.rehearse(staged([[gone], [back]]), [draft]);
  expect(whole).toMatchObject({ rehearsals: [{ kind: 'done' }, { kind: 'done' }], gone: [] });
  const total = ({ changed }: ReturnType<RuleWorker['rehearse']>) =>
    changed.find(({ id }) => id === silk)?.values.insuredTotal;
  expect(total(whole)).toEqual(total(bench.rehearse(staged([]), [draft])));
  const refused = bench.rehearse(staged([[gone], [{ ...gone }], [back]]), [draft]);
  expect(refused.rehearsals.map(({ kind }) => kind)).toEqual(['done', 'refused']);
  expect(refused.gone).toEqual([one]);
});

test('without a family it says so', () => {
  expect(() => new RuleWorker().rehearse(staged([]), [])).toThrow('Open a family first');
});

test('tells how a rule may be changed without its proofs noticing', () => {
  const rule = ruleOf(INSURED_TOTAL, 1, 'Insured total');
  const becomes = (amount: string): Expectation => ({
    ...{ kind: 'becomes', type: 'exhibition', id: silk, field: 'insuredTotal' },
    value: { amount, currency: 'GBP' },
  });
  const asked = { model: GALLERIES, settledDay: '2026-03-14', live: [ruleOf(LENT_TOTAL, 9)], rule };
  const proof = proofOf(model, rule.id, rows, { expectations: [becomes('12250')] });
  const found = (proofs: readonly Proof[]) => {
    const at = new RuleWorker();
    at.beginStrength('given up', { ...asked, proofs: [] });
    at.beginStrength('asked', { ...asked, proofs });
    expect(at.goOnWithStrength('given up')).toBeNull();
    for (;;) {
      const step = structuredClone(at.goOnWithStrength('asked'))!;
      if (step.kind === 'found') return step.strength;
      expect(step.progress.done).toBeLessThanOrEqual(step.progress.of);
    }
  };
  const none = found([]);
  expect(none.noticed).toBe(0);
  expect(none.cases.flatMap(({ notices }) => notices)).toContain('without “Stage is Agreed”');
  const one = found([proof]);
  const open = one.cases.flatMap(({ notices }) => notices);
  expect(open).not.toContain('without “Stage is Agreed”');
  expect(open).toContain('with nothing where none count');
  expect(one).toMatchObject({ tried: none.tried, noticed: none.tried - open.length - one.undecided.length });
});

test('a family stands by another day as rules keep it then; on the bench the day turns, and somebody acts', () => {
  const day = '2027-03-31';
  const files = signing(day);
  const [tax, ada] = [uuid('11'), uuid('a')];
  const rules = numbered<RuleDefinition>([CLOSED, LATE, SEEN_LATE]);
  const row = rowOf(files, 'file', tax, { title: 'Tax', state: 'open', due: '2027-04-01' });
  const given: RuleWorkerSetup = {
    ...{ model: { types: files.types }, settledDay: day, live: rules, people: { [ada]: 'Ada' }, person: ada },
    family: {
      ...{ root: { type: 'file', id: tax }, members: [tax], names: {}, complete: [] },
      records: [recordToWire(files, row)],
    },
  };
  const lateIn = ({ records }: { readonly records: readonly WireRecord[] }) => records[0]!.values.late;
  expect(lateIn(new RuleWorker().workOut(given))).toBe(false);
  expect(lateIn(new RuleWorker().workOut({ ...given, settledDay: '2027-04-02' }))).toBe(true);

  const bench = new RuleWorker();
  bench.open('files', { ...given, family: bench.workOut(given) });
  const close = { kind: 'edit', type: 'file', id: tax, values: { state: 'closed' } } as const;
  const { rehearsals, changed } = bench.rehearse(staged([[close], []], [{ run: 1, day: '2027-04-02' }]), []);
  expect(rehearsals.map(({ turned }) => turned?.waves.length ?? null)).toEqual([null, 2]);
  expect(changed[0]!.values).toMatchObject({
    ...{ closedBy: ada, closedAt: '2027-03-31T12:00:00.000Z', late: true },
    seenLate: '2027-04-02T12:01:00.000Z',
  });
});
