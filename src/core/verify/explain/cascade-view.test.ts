import { MemoryStore } from '@/core/engine';
import { buildPlan } from '@/core/plan';
import type { Cascade, KeptCascade } from '@/core/rules';
import { rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { cascade, CASCADES, touring } from '@/core/testing/touring';
import { cascadeView, type CascadeView } from '@/core/verify';
import { formulaView } from './formula-view';

const model = touring();
const [silk, robes, pots, kestrel] = [uuid('11'), uuid('21'), uuid('22'), uuid('1')];

const ROWS = [
  rowOf(model, 'institution', kestrel, { dealings: 'talks' }),
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', climate: 'Dry', phase: 'open' }),
  rowOf(model, 'loan', robes, {
    ...{ title: 'Robes', exhibition: silk, lender: kestrel },
    ...{ stage: 'agreed', dueBack: '2027-09-30' },
  }),
  rowOf(model, 'loan', pots, { title: 'Pots', exhibition: silk, lender: kestrel, stage: 'declined' }),
];

function view(cascade: Cascade, id: string, staged: Parameters<typeof cascadeView>[3] = {}): CascadeView {
  const store = new MemoryStore(model, true);
  ROWS.forEach((row) => store.put(row));
  const { plan, problems } = buildPlan(model, [ruleOf(cascade, 1)]);
  expect(problems).toEqual([]);
  const rule = plan.rules[0]!;
  if (rule.kind !== 'keptCascade' && rule.kind !== 'reactingCascade') throw new Error('Not a cascade.');
  const root = ROWS.find((row) => row.id === id)!;
  return cascadeView({ model, plan, store, names: {} }, rule, root, staged);
}

const standings = ({ recipients }: CascadeView) =>
  recipients.map(({ title, standing, values }) => [title, standing, values[0]!.after.text]);

it('tries a change that makes the rule act, and tells who takes what', () => {
  const { staged, watched, recipientsName, recipients, refusal } = view(CASCADES.climate, silk);
  expect(watched).toEqual(['climate']);
  expect(staged.map(({ before, after }) => [before.text, after.text])).toEqual([['Dry', 'Dry, changed']]);
  expect(recipientsName).toBe('its Loans');
  expect(recipients.map(({ title, standing }) => [title, standing])).toEqual([
    ['Robes', 'takes'],
    ['Pots', 'leftOut'],
  ]);
  expect(recipients[1]!.reasons).toEqual([{ test: 'Stage is not among Declined', found: 'Declined' }]);
  expect(refusal).toBeNull();
});

it('tries the value that is given instead', () => {
  const tried = view(CASCADES.climate, silk, { staged: { climate: 'Humid' } });
  expect(tried.staged[0]!.after.text).toBe('Humid');
  expect(standings(tried)[0]).toEqual(['Robes', 'takes', 'Humid']);
});

it('takes a record to have been otherwise where it is already as the rule wants it', () => {
  const { staged } = view(CASCADES.courier, silk);
  expect(staged.map(({ before, after }) => [before.text, after.text])).toEqual([['Closed', 'Open']]);
});

it('kept in step where several may cascade, tells where another comes first', () => {
  const inStep: Cascade = { ...CASCADES.dealings, moment: 'inStep', condition: null };
  const other = rowOf(model, 'loan', uuid('23'), {
    ...{ title: 'Kites', exhibition: silk, lender: kestrel },
    ...{ stage: 'returned', dueBack: '2028-01-01' },
  });
  ROWS.push(other);
  expect(standings(view(inStep, robes, { staged: { stage: 'requested' } }))).toEqual([
    ['institution 001', 'overruled', 'Past'],
  ]);
  expect(standings(view(inStep, other.id))[0]![1]).not.toBe('overruled');
  expect(standings(view(inStep, robes, { staged: { stage: 'declined' } }))[0]![1]).toBe('overruled');
  ROWS.pop();
});

it('by options of a field, tries the next one that cascades something', () => {
  // After Agreed stands Declined, for which the rule has no value.
  const tried = view(CASCADES.dealings, robes);
  expect(tried.staged.map(({ after }) => after.text)).toEqual(['Returned']);
  expect(standings(tried)).toEqual([['institution 001', 'takes', 'Past']]);
  const declined = view(CASCADES.dealings, robes, { staged: { stage: 'declined' } });
  expect(declined.recipients.map(({ standing }) => standing)).toEqual(['stays']);
  const alike = view(CASCADES.dealings, robes, { staged: { stage: 'requested' } });
  expect(alike.recipients.map(({ standing }) => standing)).toEqual(['same']);
});

function openedOn(isWhole = true) {
  const store = new MemoryStore(model, isWhole);
  store.put(rowOf(model, 'institution', kestrel, { title: 'Kestrel' }));
  const loan = (id: string, title: string, stage: string, dueBack: string | null) =>
    store.put(rowOf(model, 'loan', id, { title, lender: kestrel, stage, dueBack }));
  loan(robes, 'Robes', 'agreed', '2027-09-30');
  loan(pots, 'Pots', 'requested', '2027-10-31');
  loan(uuid('23'), 'Kites', 'declined', '2028-01-01');
  const { plan, problems } = buildPlan(model, [
    ruleOf(cascade({ ...CASCADES.dealings, moment: 'inStep' }), 1),
  ]);
  expect(problems).toEqual([]);
  const kept = plan.rules[0] as KeptCascade;
  return formulaView({ model, plan, store, names: {} }, kept, store.row('institution', kestrel)!);
}

test('all that may cascade to a record stand in the rule’s order, those with nothing to give last', () => {
  const { several, applies } = openedOn();
  expect(applies).toBe(true);
  expect(several!.plural).toBe('Loans');
  expect(several!.sources.map(({ title, standing, value }) => [title, standing, value?.text])).toEqual([
    ['Pots', 'leads', 'Talks'],
    ['Robes', 'behind', 'Active'],
    ['Kites', 'givesNothing', 'empty'],
  ]);
});

test('where not all of them are known, none are listed as if they were all', () => {
  expect(openedOn(false).several).toBeUndefined();
});
