import { readModel } from '@/core/model';
import { Decimal, type Value } from '@/core/values';
import {
  describe as inWords,
  evaluatorOf,
  Failure,
  firstRateDay,
  OUTSIDE,
  readFeel,
  typeValue,
} from '@/core/expression';

const model = readModel(
  {
    types: [
      {
        ...{ key: 'loan', name: 'Loan', plural: 'Loans', title: 'title' },
        fields: [
          { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
          { key: 'price', name: 'Price', type: { kind: 'anyMoney' } },
          { key: 'fee', name: 'Fee', type: { kind: 'money', currency: 'EUR' } },
          { key: 'day', name: 'Day', type: { kind: 'date' } },
          { key: 'pieces', name: 'Pieces', type: { kind: 'number', scale: 0 } },
        ],
      },
      {
        ...{ key: 'rate', name: 'Rate', plural: 'Rates', title: 'pair' },
        fields: [
          { key: 'pair', name: 'Pair', type: { kind: 'text' }, required: true },
          { key: 'day', name: 'Day', type: { kind: 'date' } },
          { key: 'rate', name: 'Rate', type: { kind: 'number', scale: 4 } },
        ],
        rates: { pair: 'pair', day: 'day', rate: 'rate' },
      },
    ],
  },
  '2026-11-26',
);

type Row = Readonly<Record<string, Value>>;

/** What text comes to on a loan, with one rate that is found for its pair and day. */
function worked(text: string, loan: Row, rate: { pair: string; day: string; digits: string } | null) {
  const typed = typeValue(model, 'loan', { kind: 'feel', text });
  if (!typed.ok) return typed.problem.message;
  return evaluatorOf(typed.value)<Row>(
    loan,
    (row, { field }) => row[field] ?? null,
    (_, wanted) => {
      if (wanted.kind !== 'rate' || !rate) return [];
      return wanted.pair === rate.pair && wanted.day === rate.day ? [{ rate: new Decimal(rate.digits) }] : [];
    },
  );
}

const money = (amount: string, currency: string): Value => ({ amount: new Decimal(amount), currency });
const RATE = { pair: 'EUR/GBP', day: '2026-11-26', digits: '0.8551' };

test('an amount times the rate of the day, exactly; one of that currency is itself', () => {
  expect(worked('exchange(price, "GBP", today())', { price: money('12.34', 'EUR') }, RATE)).toEqual(
    money('10.551934', 'GBP'),
  );
  expect(worked('exchange(price, "GBP", today())', { price: money('12.34', 'GBP') }, null)).toEqual(
    money('12.34', 'GBP'),
  );
  expect(worked('exchange(fee, "EUR", day)', { fee: money('5', 'EUR'), day: '2020-01-01' }, null)).toEqual(
    money('5', 'EUR'),
  );
  expect(
    worked(
      'exchange(price, "GBP", today()) * pieces',
      { price: money('2', 'EUR'), pieces: new Decimal(3) },
      RATE,
    ),
  ).toEqual(money('5.1306', 'GBP'));
});

test('of nothing, or of no day, nothing is made; without a rate it fails', () => {
  expect(worked('exchange(price, "GBP", today())', {}, RATE)).toBeNull();
  expect(worked('exchange(price, "GBP", day)', { price: money('1', 'EUR') }, RATE)).toBeNull();
  expect(worked('exchange(price, "USD", today())', { price: money('1', 'EUR') }, RATE)).toBe(
    Failure.of('missing_rate'),
  );
});

test('where rates can’t be read nothing is known', () => {
  const typed = typeValue(model, 'loan', { kind: 'feel', text: 'exchange(price, "GBP", today())' });
  const price = money('1', 'EUR');
  expect(
    typed.ok && evaluatorOf(typed.value)(null, (_, { field }) => (field === 'price' ? price : null)),
  ).toBe(OUTSIDE);
});

test.each([
  ['exchange(price, "GBP")', 'Write exchange(amount, "GBP", day); found 2 arguments.'],
  ['exchange(pieces, "GBP", day)', 'exchange(…) takes money here; this is number.'],
  [
    'exchange(price, "pounds", day)',
    'exchange(…) takes its currency as an ISO 4217 code in quotes, such as "GBP".',
  ],
  [
    'exchange(price, title, day)',
    'exchange(…) takes its currency as an ISO 4217 code in quotes, such as "GBP".',
  ],
  ['exchange(price, "GBP", title)', 'exchange(…) takes the day whose rate counts here; this is text.'],
  ['price + fee', 'Money in EUR can’t be added to money in any currency.'],
])('%s is refused', (text, message) => {
  expect(worked(text, {}, null)).toBe(message);
});

test('a model without rates says where they are set up', () => {
  const bare = readModel({ types: model.types.slice(0, 1) });
  const typed = typeValue(bare, 'loan', { kind: 'feel', text: 'exchange(price, "GBP", day)' });
  expect(typed.ok ? '' : typed.problem.message).toContain('In Model, say of the type that does');
});

test('it reads as a sentence', () => {
  const read = readFeel(model, 'loan', 'exchange(price, "GBP", today())');
  const typed = read.ok && typeValue(model, 'loan', read.value.expression);
  expect(typed && typed.ok && inWords(model, typed.value)).toBe('Price in GBP at the rate of today');
});

test('a rate counts for the seven days after its own', () => {
  expect(firstRateDay('2027-01-03')).toBe('2026-12-27');
});
