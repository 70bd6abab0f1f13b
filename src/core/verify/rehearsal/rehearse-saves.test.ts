import { cases } from '@/core/testing/cases';
import fc from 'fast-check';
import { MemoryStore, type Row, type WireEdit } from '@/core/engine';
import type { Model } from '@/core/model';
import {
  ALL_RULES,
  AVERAGE_INSURED,
  galleries,
  gbp,
  INSURED_TOTAL,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { type RunSetting, SaveSession, type SavesRehearsed } from '@/core/verify';

const model: Model = galleries();
const [museum, show, first, second] = [uuid('1'), uuid('2'), uuid('3'), uuid('4')];
const loan = (id: string, amount: number): Row =>
  rowOf(model, 'loan', id, {
    ...{ title: `Loan ${id.slice(-1)}`, exhibition: show, lender: museum },
    ...{ stage: 'agreed', insuredValue: gbp(amount) },
  });
const store = new MemoryStore(model, true);
for (const row of [
  rowOf(model, 'institution', museum, { title: 'Museum' }),
  rowOf(model, 'exhibition', show, { title: 'Show' }),
  ...[loan(first, 100), loan(second, 250)],
])
  store.put(row);

const input = { model, store, live: ALL_RULES, names: {}, people: new Set([uuid('9')]), drafts: [] };
const began = () => new SaveSession(input);

/** All that is told, with the records as they stand at the end. */
const told = ({ rehearsals, last, model: at, facts }: SavesRehearsed) => ({
  ...{ rehearsals, facts, day: at.settledDay },
  rows: model.types.flatMap(({ key }) =>
    [...last.rows(key)].map(({ id, values, deleted }) => ({ id, values, deleted })),
  ),
});

const anEdit: fc.Arbitrary<WireEdit> = fc.oneof(
  fc.record({
    ...{ kind: fc.constant('edit' as const), type: fc.constant('loan'), id: fc.constantFrom(first, second) },
    values: fc.record(
      {
        insuredValue: fc.nat(900).map((amount) => ({ amount: `${amount}.00`, currency: 'GBP' })),
        stage: fc.constantFrom('requested', 'agreed', 'gone'),
      },
      { requiredKeys: [] },
    ),
  }),
  fc.record({
    ...{ kind: fc.constant('create' as const), type: fc.constant('loan') },
    values: fc.record({
      title: fc.constantFrom('New', ''),
      exhibition: fc.constant(show),
      lender: fc.constant(museum),
    }),
  }),
  fc.constantFrom<WireEdit>(
    { kind: 'delete', type: 'loan', id: second },
    { kind: 'restore', type: 'loan', id: second },
  ),
);
const aStaging = fc.record({
  saves: fc.array(fc.array(anEdit, { maxLength: 2 }), { maxLength: 4 }),
  settings: fc.array(
    fc.record<RunSetting>(
      {
        run: fc.nat(3),
        day: fc.constantFrom('2027-01-01', '2027-01-02', '2027-02-01'),
        person: fc.constantFrom(null, uuid('9')),
      },
      { requiredKeys: ['run'] },
    ),
    { maxLength: 2 },
  ),
});

test('whatever was rehearsed before, the same is told as if it were the first', () => {
  fc.assert(
    fc.property(fc.array(aStaging, { minLength: 2, maxLength: 5 }), (stagings) => {
      const session = began();
      for (const staging of stagings)
        expect(told(session.rehearse(staging))).toEqual(told(began().rehearse(staging)));
    }),
    { numRuns: cases(30) },
  );
});

const set = (id: string, amount: string): WireEdit => ({
  ...{ kind: 'edit', type: 'loan', id },
  values: { insuredValue: { amount, currency: 'GBP' } },
});

test('what stands before the first save that is another is worked out once', () => {
  const session = began();
  const before = session.rehearse({
    saves: [[set(first, '1.00')], [set(second, '2.00')], [set(first, '3.00')]],
  });
  const after = session.rehearse({
    saves: [[set(first, '1.00')], [set(second, '2.50')], [set(first, '3.00')]],
  });
  const same = after.rehearsals.map((one, at) => one === before.rehearsals[at]);
  expect(same).toEqual([true, false, false]);
  expect(after.last.row('exhibition', show)?.values['insuredTotal']).toEqual(gbp('5.5'));
});

test('after a save that is refused nothing is made, until it is put right', () => {
  const session = began();
  const wrong = [
    [set(first, '1.00')],
    [{ kind: 'delete', type: 'loan', id: uuid('77') } as const],
    [set(first, '3.00')],
  ];
  expect(session.rehearse({ saves: wrong }).rehearsals.map(({ kind }) => kind)).toEqual(['done', 'refused']);
  expect(session.rehearse({ saves: wrong }).rehearsals).toHaveLength(2);
  const { rehearsals, last } = session.rehearse({ saves: [wrong[0]!, [], wrong[2]!] });
  expect(rehearsals.map(({ kind }) => kind)).toEqual(['done', 'done', 'done']);
  expect(last.row('exhibition', show)?.values['insuredTotal']).toEqual(gbp(253));
});

test('drafts fill what they keep before the first save, and are among what it follows', () => {
  const draft = ruleOf({ ...INSURED_TOTAL, aggregate: 'maximum' }, 60);
  const session = new SaveSession({ ...input, live: [ruleOf(AVERAGE_INSURED, 61)], drafts: [draft] });
  const { rehearsals, last } = session.rehearse({ saves: [[set(first, '900.00')]] });
  expect(rehearsals).toMatchObject([{ kind: 'done', filled: { waves: [expect.anything()] } }]);
  expect(last.row('exhibition', show)?.values['insuredTotal']).toEqual(gbp(900));
  expect(session.plan(model).rules.map(({ id }) => id)).toContain(draft.id);
});
