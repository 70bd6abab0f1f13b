import { MemoryStore } from '@/core/engine';
import type { Cascade } from '@/core/rules';
import type { WireValue } from '@/core/values';
import { rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { CASCADES, touring } from '@/core/testing/touring';
import { type LeftView, SaveSession } from '@/core/verify';

const model = touring();
const [silk, robes, pots, bands, sails] = [uuid('11'), uuid('21'), uuid('22'), uuid('23'), uuid('12')];
const loan = (id: string, title: string, values: object) =>
  rowOf(model, 'loan', id, { title, exhibition: silk, stage: 'agreed', ...values });
const ROWS = [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', climate: 'Dry', coordinator: 'Elsie' }),
  rowOf(model, 'exhibition', sails, { title: 'Sails', climate: 'Dry', coordinator: 'Elsie' }),
  loan(robes, 'Robes', { coordinator: 'Elsie', climate: 'Dry' }),
  loan(pots, 'Pots', { coordinator: 'Callum', stage: 'declined' }),
  loan(bands, 'Bands', { coordinator: 'Callum', climate: 'Dry' }),
  rowOf(model, 'loan', uuid('24'), { title: 'Elsewhere', exhibition: sails, stage: 'declined' }),
];

function left(cascade: Cascade, values: Record<string, WireValue>): readonly LeftView[] {
  const store = new MemoryStore(model, true);
  ROWS.forEach((row) => store.put(row));
  const session = new SaveSession({
    ...{ model, store, live: [ruleOf(cascade, 1, 'Handed')], names: {}, people: new Set(), drafts: [] },
  });
  const edits = [{ kind: 'edit', type: 'exhibition', id: silk, values }] as const;
  const { rehearsals } = session.rehearse({ saves: [edits], settings: [] });
  const [rehearsal] = rehearsals;
  if (rehearsal?.kind !== 'done') throw new Error('It is refused.');
  return rehearsal.ripple.left;
}
const told = (views: readonly LeftView[]) =>
  views.flatMap(({ kinds }) => kinds.map(({ why, records }) => [why, records.map(({ title }) => title)]));

test('of a cascade it is told who had it already, and nobody of another exhibition', () => {
  expect(told(left(CASCADES.coordinator, { coordinator: 'Callum' }))).toEqual([
    ['has it already', ['Pots', 'Bands']],
  ]);
});

test('who is left out by the condition is told with the test that fails', () => {
  expect(told(left(CASCADES.climate, { climate: 'Humid' }))).toEqual([
    ['fails “Stage is not among Declined”: here Declined', ['Pots']],
  ]);
});

test('where only empty ones are filled it is told that others hold something', () => {
  expect(told(left({ ...CASCADES.coordinator, only: 'empty' }, { coordinator: 'Priya' }))).toEqual([
    ['holds something already', ['Robes', 'Pots', 'Bands']],
  ]);
});

test('nothing is told of a rule whose moment didn’t come', () => {
  expect(left(CASCADES.coordinator, { climate: 'Humid' })).toEqual([]);
});
