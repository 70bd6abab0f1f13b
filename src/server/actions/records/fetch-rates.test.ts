import { BOUNDS } from '@/core/engine';
import type { Expression } from '@/core/expression';
import { type Field, readModel } from '@/core/model';
import type { RollUp } from '@/core/rules';
import { Decimal, type Money, type Value } from '@/core/values';
import { simulatedRates } from '@/standins/simulated-rates';
import { galleries, RATES, rollUp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { getExplanation } from '@/server/queries/records/explanation';
import { getFamily } from '@/server/queries/records/family';
import { listRecords } from '@/server/queries/records/list-records';
import { fetchRatesOf, settleDay } from '@/server/jobs/settle-days';
import { setBounds } from '@/server/store/session/bounds';
import { driftIn } from '@/server/testing/drift';
import { ledgerFlaws } from '@/server/testing/ledger';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { fetchRates } from './fetch-rates';
import { rehearseOnData } from './rehearse';
import { saveEdits } from './save-edits';

const base = galleries();
const PRICE: Field = { key: 'price', name: 'Price', type: { kind: 'anyMoney' } };
const model = readModel(
  {
    types: [
      ...base.types.map((type) =>
        type.key === 'loan' ? { ...type, fields: [...type.fields, PRICE] } : type,
      ),
      RATES,
    ],
  },
  '2026-11-26',
);
const TOTAL: RollUp = rollUp({
  ...{ type: 'exhibition', target: 'insuredTotal', aggregate: 'sum' },
  ...{ route: [{ direction: 'down', type: 'loan', link: 'exhibition' }] },
  value: { kind: 'feel', text: 'exchange(price, "GBP", today())' },
});
const [silk, robes, pots] = ['11', '21', '22'].map(uuid) as [string, string, string];
const money = (amount: string, currency: string): Value => ({ amount: new Decimal(amount), currency });

let workspace: TestWorkspace;
beforeEach(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: [ruleOf(TOTAL, 1)] },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      rowOf(model, 'loan', robes, { title: 'Robes', exhibition: silk, price: money('100.00', 'EUR') }),
      rowOf(model, 'loan', pots, { title: 'Pots', exhibition: silk, price: money('7.50', 'GBP') }),
    ],
  });
});
afterEach(() => {
  setBounds();
  return workspace.remove();
});
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const exhibition = async () => (await workspace.rows()).find(({ id }) => id === silk)!;
const total = async () => {
  const { values, errors } = await exhibition();
  return errors.insuredTotal ?? values.insuredTotal;
};
const rateOn = async (day: string): Promise<string> =>
  (await simulatedRates.ratesOn(day)).find(({ pair }) => pair === 'EUR/GBP')!.rate;

test('until there is a rate the total is a problem; once rates are fetched it clears itself, in their run', async () => {
  expect(await total()).toBe('input_has_problem');
  const fetched = await fetchRates({ ...by(), service: simulatedRates });
  // 21 or 22 weekdays in 30 days, six pairs each.
  expect([126, 132]).toContain(fetched.made);
  const wanted = new Decimal(await rateOn('2026-11-26')).times(100).plus('7.5');
  expect(await total()).toEqual({ amount: wanted.toDecimalPlaces(2), currency: 'GBP' });
  expect(await fetchRates({ ...by(), service: simulatedRates })).toEqual({ run: null, made: 0 });
  expect(await driftIn(workspace)).toEqual([]);
  expect(await ledgerFlaws(workspace)).toEqual([]);
});

test('when the day turns the rate of the new day counts, and over a weekend the last one', async () => {
  await fetchRates({ ...by(), service: simulatedRates });
  await settleDay(workspace.key, '2026-11-29');
  await fetchRates({ ...by(), person: null, service: simulatedRates });
  const friday = new Decimal(await rateOn('2026-11-27')).times(100).plus('7.5');
  expect(await simulatedRates.ratesOn('2026-11-29')).toEqual([]);
  expect(await total()).toEqual({ amount: friday.toDecimalPlaces(2), currency: 'GBP' });
  expect(await driftIn(workspace)).toEqual([]);
});

test('a changed rate reaches what needs it, in a rehearsal as in a save', async () => {
  const rate = (digits: string) => ({
    ...({ kind: 'create', type: 'rate', id: uuid('99') } as const),
    values: { title: 'Today', pair: 'EUR/GBP', day: '2026-11-26', rate: digits },
  });
  const rehearsed = await rehearseOnData({ workspace: workspace.key, edits: [rate('0.5')], drafts: [] });
  const saved = await saveEdits({ ...by(), edits: [rate('0.5')] });
  expect(saved.ripple.waves).toEqual(rehearsed.ripple.waves);
  expect(await total()).toEqual(money('57.5', 'GBP'));
  await saveEdits({ ...by(), edits: [{ kind: 'delete', type: 'rate', id: uuid('99') }] });
  expect(await total()).toBe('input_has_problem');
});

test('a rate that more need than go one by one is left to sets, and asked for first', async () => {
  const many = Array.from({ length: 12 }, (_, at) => at);
  const values = (at: number) => ({
    exhibition: uuid(`5${at}`),
    price: { amount: `${at + 1}.00`, currency: 'EUR' },
  });
  await saveEdits({
    ...by(),
    edits: many.flatMap((at) => [
      { kind: 'create', type: 'exhibition', id: uuid(`5${at}`), values: { title: `Show ${at}` } } as const,
      {
        kind: 'create',
        type: 'loan',
        id: uuid(`6${at}`),
        values: { title: `Loan ${at}`, ...values(at) },
      } as const,
    ]),
  });
  const rate = { type: 'rate', id: uuid('99') } as const;
  const made = { title: 'Today', pair: 'EUR/GBP', day: '2026-11-26', rate: '0.5' };
  setBounds({ ...BOUNDS, mostKeptByRow: 10, page: 5 });
  const edits = [{ kind: 'create', ...rate, values: made } as const];
  expect(await refusal(saveEdits({ ...by(), edits, asksWhereMany: true }))).toMatchObject({
    code: 'save.many',
  });
  await saveEdits({ ...by(), edits });
  const totals = async () =>
    (await workspace.rows())
      .filter(({ type, id }) => type === 'exhibition' && id !== silk)
      .map(({ values: { title, insuredTotal } }) => [title, String((insuredTotal as Money).amount)]);
  expect(new Map((await totals()) as [string, string][])).toEqual(
    new Map(many.map((at) => [`Show ${at}`, String((at + 1) / 2)])),
  );
  await saveEdits({ ...by(), edits: [{ kind: 'edit', ...rate, values: { rate: '2' } }] });
  expect(new Map((await totals()) as [string, string][])).toEqual(
    new Map(many.map((at) => [`Show ${at}`, String((at + 1) * 2)])),
  );
  expect(await driftIn(workspace)).toEqual([]);
  expect(await ledgerFlaws(workspace)).toEqual([]);
});

test('a family brings the rates along, and the total opens', async () => {
  await fetchRates({ ...by(), service: simulatedRates });
  const family = await getFamily(await workspace.load(), 'exhibition', silk);
  expect(family.ratesSince).toBe('0001-01-01');
  expect(family.records.filter(({ type }) => type === 'rate').length).toBeGreaterThan(100);
  const opened = await getExplanation(await workspace.load(), {
    ...{ type: 'exhibition', id: silk, field: 'insuredTotal', from: 0, limit: 10 },
  });
  const ofRobes = new Decimal(await rateOn('2026-11-26')).times(100).toDecimalPlaces(2);
  expect(opened.members.map(({ title, value }) => [title, value?.text])).toEqual([
    ['Pots', '7.50 GBP'],
    ['Robes', `${ofRobes.toFixed(2)} GBP`],
  ]);
});

test('amounts are kept with their currency: entered, listed, filtered, in the ledger', async () => {
  const edit = (price: unknown) => ({ kind: 'edit', type: 'loan', id: pots, values: { price } }) as const;
  await saveEdits({ ...by(), edits: [edit({ amount: '1250', currency: 'JPY' })] });
  expect((await workspace.rows()).find(({ id }) => id === pots)!.values.price).toEqual(money('1250', 'JPY'));
  const is = (amount: string, currency: string): Expression => ({
    ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: 'price' } },
    right: { kind: 'constant', value: { amount, currency } },
  });
  const listed = async (condition: Expression) =>
    (
      await listRecords(await workspace.load(), {
        ...{ type: 'loan', filter: {}, condition, descending: false, limit: 10 },
      })
    ).records.map(({ values }) => [values.title, values.price]);
  expect(await listed(is('1250', 'JPY'))).toEqual([['Pots', { amount: '1250', currency: 'JPY' }]]);
  expect(await listed(is('1250', 'EUR'))).toEqual([]);
  expect(
    (await refusal(saveEdits({ ...by(), edits: [edit({ amount: '1', currency: 'GLD' })] }))).message,
  ).toContain('Expected an amount with its currency, by its ISO 4217 code');
  expect(
    (await refusal(saveEdits({ ...by(), edits: [edit({ amount: '1.5', currency: 'JPY' })] }))).message,
  ).toContain('Expected a whole number');
  expect(await ledgerFlaws(workspace)).toEqual([]);
});

test('without a service, or a type of rates, it says what to do', async () => {
  expect((await refusal(fetchRates(by()))).message).toContain('No rate service is set up');
});

test('where the service fails it is asked again after a minute, two, four; once the day’s rates came, not again that day', async () => {
  process.env.OIKON_RATE_SERVICE = 'simulated';
  const asked = jest.spyOn(simulatedRates, 'ratesOn').mockRejectedValue(new Error('Nobody answers.'));
  const at = (minutes: number) =>
    fetchRatesOf(workspace.key, new Date(Date.UTC(2026, 10, 26, 8, 0) + minutes * 60_000));
  try {
    for (const [minutes, times] of [
      ...[
        [0, 1],
        [0.9, 1],
        [1, 2],
        [2.9, 2],
        [3, 3],
        [6.9, 3],
        [7, 4],
      ],
    ] as [number, number][]) {
      await at(minutes);
      expect([minutes, asked.mock.calls.length]).toEqual([minutes, times]);
    }
    expect(await total()).toBe('input_has_problem');
    asked.mockRestore();
    await at(15);
    expect(await total()).toEqual(expect.objectContaining({ currency: 'GBP' }));
    const again = jest.spyOn(simulatedRates, 'ratesOn');
    await at(24 * 60);
    expect(again).not.toHaveBeenCalled();
    again.mockRestore();
    // The next day's are asked for.
    await settleDay(workspace.key, '2026-11-27');
    await at(25 * 60);
    expect((await workspace.rows()).some(({ values }) => values.day === '2026-11-27')).toBe(true);
  } finally {
    asked.mockRestore();
    delete process.env.OIKON_RATE_SERVICE;
  }
});
