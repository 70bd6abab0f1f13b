import { type Field, readModel } from '@/core/model';
import type { RuleDefinition } from '@/core/rules';
import { fieldOf, rollUp, rowOf, uuid } from '@/core/testing/galleries';
import { edit, numbered, RuleDesk } from '@/core/testing/rule-desk';
import { cascade, down, from, touring, when } from '@/core/testing/touring';
import { Decimal } from '@/core/values';
import { MOST_TOUCHED } from '@/core/engine';

/** A chain over two records and back: each rule takes what the one before gave. */
const RULES = 200;
const number = (at: number): Field => ({
  ...{ key: `n${at}`, name: `Number ${at}`, type: { kind: 'number', scale: 0 } },
});
const numbers = Array.from({ length: RULES / 2 + 1 }, (_, at) => number(at));
const chained = readModel(
  {
    types: [
      {
        ...{ key: 'batch', name: 'Batch', plural: 'Batches', title: 'title' },
        fields: [{ key: 'title', name: 'Title', type: { kind: 'text' } }, ...numbers],
      },
      {
        ...{ key: 'sample', name: 'Sample', plural: 'Samples', title: 'title' },
        fields: [
          { key: 'title', name: 'Title', type: { kind: 'text' } },
          {
            ...{ key: 'batch', name: 'Batch', otherEnd: 'Samples', whenParentGoes: 'clear' },
            type: { kind: 'link', target: 'batch' },
          },
          ...numbers,
        ],
      },
    ],
  },
  '2027-03-01',
);
const toSamples = [down('sample', 'batch')];

describe('a chain of 200 rules', () => {
  const links = (moment: (at: number) => ReturnType<typeof when>) =>
    Array.from({ length: RULES / 2 }, (_, at): RuleDefinition[] => [
      cascade({ type: 'batch', route: toSamples, moment: moment(at), assignments: [from(`n${at}`)] }),
      rollUp({
        ...{ type: 'batch', target: `n${at + 1}`, aggregate: 'sum', route: toSamples },
        value: fieldOf(`n${at}`),
      }),
    ]).flat();

  test.each([
    ['kept in step', () => 'inStep' as const],
    ['on change', (at: number) => when({ kind: 'changed', field: `n${at}` })],
  ])('of totals and of values %s comes to its end in one run', (_, moment) => {
    const [batch, one, other] = [uuid('1'), uuid('2'), uuid('3')];
    const desk = new RuleDesk(chained, numbered(links(moment)), [
      rowOf(chained, 'batch', batch, {}),
      rowOf(chained, 'sample', one, { batch }),
      rowOf(chained, 'sample', other, { batch: null, n0: '5' }),
    ]).run([edit('batch', batch, { n0: new Decimal(7) })]);
    expect(desk.refused).toBe('');
    expect(String(desk.at('batch', batch, `n${RULES / 2}`))).toBe('7');
    expect(String(desk.at('sample', other, 'n0'))).toBe('5');
  });
});

test('a run that would touch more records than one may is refused by their number; nothing of it stays', () => {
  const model = touring();
  const silk = uuid('11');
  const idOf = (at: number) => uuid(String(100_000 + at));
  const desk = new RuleDesk(
    model,
    numbered([
      cascade({
        ...{ type: 'exhibition', route: [down('loan', 'exhibition')], moment: 'inStep' },
        assignments: [from('climate')],
      }),
    ]),
    [
      rowOf(model, 'exhibition', silk, {}),
      ...Array.from({ length: MOST_TOUCHED }, (_, at) =>
        rowOf(model, 'loan', idOf(at), { exhibition: silk }),
      ),
    ],
  );
  desk.run([edit('exhibition', silk, { climate: 'Dry' })]);
  expect(desk.refused).toContain(
    'This would touch 100,001 records at once; at most 100,000 go into one run.',
  );
  expect(desk.at('exhibition', silk, 'climate')).toBeNull();
  expect(desk.at('loan', idOf(0), 'climate')).toBeNull();
});
