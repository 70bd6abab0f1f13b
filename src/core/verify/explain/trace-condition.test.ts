import { MemoryStore } from '@/core/engine';
import { buildPlan } from '@/core/plan';
import type { RuleDefinition } from '@/core/rules';
import { fieldOf, galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { SIGNED, signing } from '@/core/testing/signing';
import { traceConditions, type TestRead } from '@/core/verify';

const model = galleries();
const [silk, robes, pots] = [uuid('11'), uuid('21'), uuid('22')];
const store = new MemoryStore(model, true);
for (const row of [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
  rowOf(model, 'loan', robes, { title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) }),
  rowOf(model, 'loan', pots, { title: 'Pots', exhibition: silk, stage: 'declined' }),
])
  store.put(row);

function read(definition: RuleDefinition, type: string, id: string) {
  const { plan, problems } = buildPlan(model, [ruleOf(definition, 1)]);
  expect(problems).toEqual([]);
  return traceConditions({ model, plan, store, names: {} }, plan.turns[0]!, store.row(type, id)!);
}
const briefly = ({ verdict, sides, operator, join, of }: TestRead): unknown =>
  join
    ? [join, verdict, of.map(briefly)]
    : [
        sides
          .map(({ words, value }) => (words === value ? value : `${words}: ${value}`))
          .join(` ${operator} `),
        verdict,
      ];

test('each test stands with its two sides and its verdict, in the words of the sentence', () => {
  const [agreed] = read(INSURED_TOTAL, 'loan', robes);
  expect(agreed).toMatchObject({ name: 'which Loans count', record: 'Robes' });
  expect(briefly(agreed!.test)).toEqual(['Stage: Agreed is Agreed', 'holds']);
  expect(briefly(read(INSURED_TOTAL, 'loan', pots)[0]!.test)).toEqual(['Stage: Declined is Agreed', 'fails']);
});

test('tests that are joined are read one by one, up their ways too', () => {
  const condition = {
    ...{ kind: 'group', operator: 'any' },
    of: [
      { kind: 'among', operator: 'isAmong', operand: fieldOf('stage'), options: ['agreed', 'returned'] },
      { kind: 'presence', operator: 'isNotEmpty', operand: fieldOf('insuredValue') },
      {
        ...{ kind: 'compare', operator: '=', left: fieldOf('open', 'exhibition') },
        right: { kind: 'constant', value: true },
      },
    ],
  } as RuleDefinition & never;
  const [found] = read({ ...INSURED_TOTAL, condition }, 'loan', pots);
  expect(briefly(found!.test)).toEqual([
    ...['any', 'holds'],
    [
      ['Stage: Declined is among Agreed, Returned', 'fails'],
      ['Insured value: empty', 'fails'],
      ['Exhibition’s open: yes is yes', 'holds'],
    ],
  ]);
});

test('nothing is asked of a record of another type', () => {
  expect(read(INSURED_TOTAL, 'exhibition', silk)).toEqual([]);
});

test('who makes the change is read as the person of the save', () => {
  const files = signing();
  const tax = rowOf(files, 'file', uuid('31'), { title: 'Tax', owner: uuid('a') });
  const stored = new MemoryStore(files, true);
  stored.put(tax);
  const { plan } = buildPlan(files, [ruleOf(SIGNED, 1)]);
  const by = (person: string) => {
    const facts = { person, moment: '2027-03-31T12:00:00.000Z' };
    const names = { [uuid('a')]: 'Ada', [uuid('b')]: 'Ben' };
    return traceConditions({ model: files, plan, store: stored, names, facts }, plan.turns[0]!, tax);
  };
  expect(by(uuid('a'))).toMatchObject([{ name: 'when it cascades', test: { verdict: 'fails' } }]);
  expect(by(uuid('b'))).toMatchObject([{ test: { verdict: 'holds' } }]);
  expect(JSON.stringify(by(uuid('b')))).toContain('Ben');
});
