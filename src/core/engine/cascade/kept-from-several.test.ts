import type { Edit } from '@/core/engine';
import type { Expression } from '@/core/expression';
import type { Cascade } from '@/core/rules';
import { rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { create, edit, numbered, RuleDesk } from '@/core/testing/rule-desk';
import { cascade, CASCADES, down, from, touring, up } from '@/core/testing/touring';

const model = touring();
const [silk, salt] = [uuid('11'), uuid('12')];
const [robes, pots, kites] = [uuid('21'), uuid('22'), uuid('23')];
const [kestrel, orrery] = [uuid('1'), uuid('2')];
const [mia, tom] = [uuid('31'), uuid('32')];

const loan = (id: string, lender: string, values: Parameters<typeof rowOf>[3]) =>
  rowOf(model, 'loan', id, { exhibition: silk, lender, ...values });
const ROWS = [
  rowOf(model, 'institution', kestrel, { title: 'Kestrel' }),
  rowOf(model, 'institution', orrery, { title: 'Orrery', dealings: 'none' }),
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', closes: '2027-08-29', phase: 'open' }),
  rowOf(model, 'exhibition', salt, { title: 'Salt', closes: '2027-12-01', phase: 'proposed' }),
  loan(robes, kestrel, { title: 'Robes', stage: 'agreed', dueBack: '2027-09-30', coordinator: 'Farid' }),
  loan(pots, kestrel, { title: 'Pots', stage: 'requested', dueBack: '2027-10-31', coordinator: 'Elsie' }),
  loan(kites, orrery, { title: 'Kites', stage: 'declined', dueBack: null, coordinator: null }),
  rowOf(model, 'courier', mia, { title: 'Mia' }),
  rowOf(model, 'courier', tom, { title: 'Tom', told: 'Entered' }),
  ...(
    [
      ['41', silk],
      ['42', salt],
    ] as const
  ).map(([id, exhibition]) => rowOf(model, 'assignment', uuid(id), { title: id, courier: mia, exhibition })),
];

const FILL = { fill: [uuid('a1')] };
const desk = (rule: Cascade) => new RuleDesk(model, numbered([rule]), ROWS).run([], FILL);
/** From loans to their lender: by their stages, the last that is due back. */
const UPWARD = cascade({ ...CASCADES.dealings, moment: 'inStep' });
/** From exhibitions over the assignments to their couriers: the title of the first that closes. */
const ACROSS = cascade({
  ...{ type: 'exhibition', route: [down('assignment', 'exhibition'), up('courier')], moment: 'inStep' },
  order: { field: { kind: 'field', route: [], field: 'closes' }, isLast: false },
  assignments: [from('told', 'title')],
});
/** From loans to the others of the exhibition. */
const BESIDE = cascade({
  ...{ type: 'loan', route: [up('exhibition'), down('loan', 'exhibition')], moment: 'inStep' },
  assignments: [from('instruction', 'coordinator')],
});

test('to what records hang under: the one that leads by the order among those that have something to give', () => {
  const at = desk(UPWARD);
  // The pots are due back last; the kites are declined, which the table leaves out.
  expect(at.at('institution', kestrel, 'dealings')).toBe('talks');
  expect(at.at('institution', orrery, 'dealings')).toBe('none');
  at.run([edit('loan', robes, { dueBack: '2028-01-01' })]);
  expect(at.at('institution', kestrel, 'dealings')).toBe('active');
  at.run([edit('loan', robes, { stage: 'declined' })]);
  expect(at.at('institution', kestrel, 'dealings')).toBe('talks');
  at.run([edit('loan', pots, { lender: orrery })]);
  expect(at.at('institution', orrery, 'dealings')).toBe('talks');
});

test('where none has something to give, it claims nothing: what stands there stands, and people may enter it', () => {
  const at = desk(UPWARD).run([edit('institution', orrery, { dealings: 'past' })]);
  expect([at.refused, at.at('institution', orrery, 'dealings')]).toEqual(['', 'past']);
  at.run([edit('institution', kestrel, { dealings: 'past' })]);
  expect(at.refused).toContain('Dealings');
  at.run([
    { kind: 'delete', type: 'loan', id: pots },
    { kind: 'delete', type: 'loan', id: robes },
  ]);
  expect(at.at('institution', kestrel, 'dealings')).toBe('talks');
  expect(at.run([edit('institution', kestrel, { dealings: 'past' })]).refused).toBe('');
});

test('over a bridge: the first of all that lie at its other side', () => {
  const at = desk(ACROSS);
  expect([at.at('courier', mia, 'told'), at.at('courier', tom, 'told')]).toEqual([
    'Rivers of Silk',
    'Entered',
  ]);
  at.run([edit('exhibition', salt, { closes: '2027-01-01' })]);
  expect(at.at('courier', mia, 'told')).toBe('Salt');
  at.run([{ kind: 'delete', type: 'assignment', id: uuid('42') }]);
  expect(at.at('courier', mia, 'told')).toBe('Rivers of Silk');
  at.run([create('assignment', uuid('43'), { courier: tom, exhibition: salt })]);
  expect(at.at('courier', tom, 'told')).toBe('Salt');
});

test('to siblings: never from itself, and by the order of their making where nothing else is said', () => {
  const at = desk(BESIDE);
  const given = () => [robes, pots, kites].map((id) => at.at('loan', id, 'instruction'));
  expect(given()).toEqual(['Elsie', 'Farid', 'Farid']);
  at.run([edit('loan', robes, { coordinator: 'Priya' })]);
  expect(given()).toEqual(['Elsie', 'Priya', 'Priya']);
  at.run([edit('loan', robes, { exhibition: salt })]);
  expect(given()).toEqual(['Elsie', null, 'Elsie']);
});

test('only from those that have the same, neither of them empty', () => {
  const at = desk({ ...BESIDE, same: ['lender'] });
  expect([robes, pots, kites].map((id) => at.at('loan', id, 'instruction'))).toEqual([
    'Elsie',
    'Farid',
    null,
  ]);
  at.run([edit('loan', kites, { lender: kestrel })]);
  expect(at.at('loan', kites, 'instruction')).toBe('Farid');
});

test('beneath a record, too: only to those that have the same', () => {
  const rule = cascade({
    ...{ type: 'exhibition', route: [down('loan', 'exhibition')], moment: 'inStep', same: ['coordinator'] },
    assignments: [from('instruction', 'title')],
  });
  const at = desk(rule).run([edit('exhibition', silk, { coordinator: 'Farid' })]);
  expect([robes, pots, kites].map((id) => at.at('loan', id, 'instruction'))).toEqual([
    'Rivers of Silk',
    null,
    null,
  ]);
});

test('what another would have given is told, where something else stands', () => {
  const overruledBy = (edits: readonly Edit[]) =>
    desk(UPWARD)
      .run(edits)
      .ripple!.overruled.map(({ id, field, value, by }) => [id, field, value, by === uuid('a1')]);
  expect(overruledBy([edit('loan', robes, { stage: 'returned' })])).toEqual([
    [kestrel, 'dealings', 'past', true],
  ]);
  // The one that leads, one that gives the same, and one that gives nothing overrule nobody.
  expect(overruledBy([edit('loan', pots, { stage: 'returned' })])).toEqual([]);
  expect(overruledBy([edit('loan', robes, { stage: 'requested' })])).toEqual([]);
  expect(overruledBy([edit('loan', robes, { stage: 'declined' })])).toEqual([]);
});

test('a condition asks the record that takes it', () => {
  const named: Expression = {
    ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: 'title' } },
    right: { kind: 'constant', value: 'Tom' },
  };
  const at = desk({ ...ACROSS, condition: named });
  expect(at.at('courier', mia, 'told')).toBeNull();
  expect(at.run([edit('courier', mia, { title: 'Tom' })]).at('courier', mia, 'told')).toBe('Rivers of Silk');
});

test('a pilot goes by the records that cascade', () => {
  const rule = ruleOf(ACROSS, 1);
  const at = new RuleDesk(model, [{ ...rule, pilot: { kind: 'records', ids: [salt] } }], ROWS).run([], FILL);
  expect(at.at('courier', mia, 'told')).toBe('Salt');
  at.run([edit('exhibition', silk, { title: 'Silk' })]);
  expect(at.at('courier', mia, 'told')).toBe('Salt');
});
