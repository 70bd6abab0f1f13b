import { MemoryStore } from '@/core/engine';
import { buildPlan } from '@/core/plan';
import { galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import { piecesOf } from '@/core/verify';

const model = galleries();
const [silk, maps, robes, pots, fans] = ['11', '12', '21', '22', '23'].map(uuid) as [
  string,
  string,
  string,
  string,
  string,
];

function storeOf(): MemoryStore {
  const store = new MemoryStore(model, true);
  store.put(rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', grade: null }));
  store.put(rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table' }));
  const loan = (id: string, title: string, amount: string, stage: string) =>
    store.put(rowOf(model, 'loan', id, { title, exhibition: silk, insuredValue: gbp(amount), stage }));
  loan(robes, 'Robes', '1250', 'agreed');
  loan(pots, 'Pots', '900.50', 'agreed');
  loan(fans, 'Fans', '7', 'declined');
  return store;
}

const piecesIn = (text: string, id = silk) => {
  const store = storeOf();
  const { plan } = buildPlan(model, []);
  const found = piecesOf({ model, plan, store, names: {} }, 'exhibition', text, store.row('exhibition', id)!);
  return found.map(({ text: of, value, within }) => [
    of,
    within ? within.each.join(' · ') : value?.text,
    within ? `${within.count} ${within.of}` : null,
  ]);
};

test('each piece of a formula has what it comes to, from the whole to its parts', () => {
  expect(piecesIn('if title = "x" then 1 else count(loans) + 2')).toEqual([
    ['if title = "x" then 1 else count(loans) + 2', '5', null],
    ['title = "x"', 'no', null],
    ['title', 'Rivers of Silk', null],
    ['count(loans) + 2', '5', null],
    ['count(loans)', '3', null],
  ]);
});

test('pieces within a list come to something on each of its records', () => {
  const pieces = piecesIn('sum(loans[stage = "agreed"].insuredValue)');
  expect(pieces[0]).toEqual(['sum(loans[stage = "agreed"].insuredValue)', '2,150.50 GBP', null]);
  const within = new Map(pieces.slice(1).map(([text, comesTo, of]) => [text, [comesTo, of]]));
  expect(within.get('stage = "agreed"')).toEqual(['yes · yes · no', '3 Loans']);
  expect(within.get('stage')).toEqual(['Agreed · Agreed · Declined', '3 Loans']);
});

test('a list without records has nothing to show, and says so by its number', () => {
  expect(piecesIn('count(loans[stage = "agreed"])', maps)).toEqual([
    ['count(loans[stage = "agreed"])', '0', null],
    ['stage = "agreed"', '', '0 Loans'],
    ['stage', '', '0 Loans'],
  ]);
});
