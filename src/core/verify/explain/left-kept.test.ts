import { MemoryStore } from '@/core/engine';
import type { LinkRule, RuleDefinition } from '@/core/rules';
import { Decimal, type WireValue } from '@/core/values';
import {
  EXHIBITION_ARTEFACTS,
  galleries,
  gbp,
  INSURED_TOTAL,
  rowOf,
  ruleOf,
  stageIs,
  uuid,
} from '@/core/testing/galleries';
import { type LeftView, SaveSession } from '@/core/verify';

const model = galleries();
const [museum, silk, maps] = [uuid('1'), uuid('11'), uuid('12')];
const loan = (id: string, values: object) =>
  rowOf(model, 'loan', uuid(id), { title: `Loan ${id}`, exhibition: silk, lender: museum, ...values });
const ROWS = [
  rowOf(model, 'institution', museum, { title: 'Kestrel' }),
  rowOf(model, 'exhibition', silk, {
    title: 'Silk',
    venue: museum,
    insuredTotal: gbp(100),
    artefactCount: new Decimal(0),
  }),
  rowOf(model, 'exhibition', maps, { title: 'Maps', insuredTotal: gbp(0) }),
  loan('21', { stage: 'agreed', insuredValue: gbp(100) }),
  loan('22', { stage: 'declined', insuredValue: gbp(30) }),
];

function left(
  definition: RuleDefinition,
  id: string,
  values: Record<string, WireValue>,
): readonly LeftView[] {
  const store = new MemoryStore(model, true);
  ROWS.forEach((row) => store.put(row));
  const session = new SaveSession({
    ...{ model, store, live: [ruleOf(definition, 1, 'It')], names: {}, people: new Set(), drafts: [] },
  });
  const edits = [{ kind: 'edit', type: 'loan', id: uuid(id), values }] as const;
  const [rehearsal] = session.rehearse({ saves: [edits], settings: [] }).rehearsals;
  if (rehearsal?.kind !== 'done') throw new Error('It is refused.');
  return rehearsal.ripple.left;
}
const told = (views: readonly LeftView[]) =>
  views.flatMap(({ rule, kinds }) =>
    kinds.map(({ why, records }) => [rule.kind, why, records.map(({ title }) => title)]),
  );

test('a total to which what changed doesn’t count is left, and it is told why', () => {
  expect(told(left(INSURED_TOTAL, '22', { insuredValue: { amount: '50', currency: 'GBP' } }))).toEqual([
    ['rollUp', 'what changed doesn’t count: fails “Stage is Agreed”: here Declined', ['Silk']],
  ]);
});

test('one that comes to the same says so; what a rule doesn’t read isn’t told of', () => {
  expect(told(left(EXHIBITION_ARTEFACTS, '21', { artefactCount: '0' }))).toEqual([
    ['rollUp', 'comes to the same', ['Silk']],
  ]);
  expect(left(INSURED_TOTAL, '21', { weight: '2.5' })).toEqual([]);
  expect(left(INSURED_TOTAL, '21', { insuredValue: { amount: '70', currency: 'GBP' } })).toEqual([]);
});

test('a formula that doesn’t apply names the test that fails', () => {
  const formula: RuleDefinition = {
    ...{
      kind: 'formula',
      type: 'loan',
      target: 'weight',
      value: { kind: 'feel', text: 'artefactCount * 2' },
    },
    ...{ appliesWhen: stageIs('agreed'), otherwise: null, rounding: null, pace: 'withTheSave' },
  };
  expect(told(left(formula, '22', { artefactCount: '3' }))).toEqual([
    ['formula', 'doesn’t apply: fails “Stage is Agreed”: here Declined', ['Loan 22']],
  ]);
});

test('a link that finds what it found is told as left', () => {
  const link: LinkRule = {
    ...{ kind: 'link', type: 'loan', target: 'lender', appliesWhen: null, holds: 'always', none: 'leave' },
    find: { kind: 'route', route: ['exhibition', 'venue'], topmost: null, whenNoneAbove: 'empty' },
    pace: 'withTheSave',
  };
  expect(told(left(link, '22', { exhibition: maps }))).toEqual([['link', 'finds the same', ['Loan 22']]]);
});
