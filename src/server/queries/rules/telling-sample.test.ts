import {
  fieldOf,
  galleries,
  gbp,
  INSURED_TOTAL,
  LAST_DUE,
  rollUp,
  rowOf,
  stageIs,
  uuid,
} from '@/core/testing/galleries';
import type { RuleDefinition } from '@/core/rules';
import { disconnect } from '@/server/database/connection';
import { type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { tellingSample } from './telling-sample';

const model = galleries();
const [nothing, all, some, many] = ['11', '12', '13', '14'].map(uuid) as [string, string, string, string];
const loan = (id: string, exhibition: string, stage: string) =>
  rowOf(model, 'loan', uuid(id), { title: id, exhibition, stage, insuredValue: gbp(1) });

let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: [] },
    rows: [
      ...[nothing, all, some, many].map((id) => rowOf(model, 'exhibition', id, { title: id.slice(-2) })),
      ...[loan('21', all, 'agreed'), loan('22', all, 'agreed'), loan('23', all, 'agreed')],
      ...[loan('24', some, 'agreed'), loan('25', some, 'declined')],
      ...Array.from({ length: 60 }, (_, at) => loan(String(100 + at), many, at > 5 ? 'agreed' : 'declined')),
    ],
  });
});
afterAll(() => workspace.remove());
afterAll(disconnect);

const sample = (definition: RuleDefinition) => tellingSample(workspace.key, definition);

test('a roll-up is shown first where something counts and something doesn’t, of few rather than of many', async () => {
  expect(await sample(INSURED_TOTAL)).toBe(some);
  // Nothing is asked: about as many as can be looked over.
  expect(await sample(LAST_DUE)).toBe(all);
});

test('where no record has both, one where something counts; where nothing is asked of anything, none tells more', async () => {
  expect(await sample(rollUp({ ...INSURED_TOTAL, condition: stageIs('requested') }))).not.toBe(nothing);
  const formula: RuleDefinition = {
    ...{
      kind: 'formula',
      type: 'loan',
      target: 'weight',
      value: { kind: 'feel', text: '1' },
      rounding: null,
    },
    ...{ appliesWhen: stageIs('declined'), otherwise: null, pace: 'withTheSave' },
  };
  expect([uuid('25'), ...Array.from({ length: 6 }, (_, at) => uuid(String(100 + at)))]).toContain(
    await sample(formula),
  );
  expect(await sample({ ...formula, appliesWhen: null })).toBeNull();
});

test('of a rule whose condition doesn’t fit the model none tells more', async () => {
  expect(await sample(rollUp({ ...INSURED_TOTAL, condition: stageIs('lost') }))).toBeNull();
});

test('of a rule that goes all the way down one with a hierarchy beneath it', async () => {
  const [house, wing, lone] = ['1', '2', '3'].map(uuid) as [string, string, string];
  const other = await testWorkspace({
    ...{ model, rules: [] },
    rows: [
      rowOf(model, 'institution', lone, { title: 'Lone' }),
      rowOf(model, 'institution', house, { title: 'House' }),
      rowOf(model, 'institution', wing, { title: 'Wing', partOf: house }),
      ...['21', '22'].map((id) => rowOf(model, 'loan', uuid(id), { title: id, lender: lone })),
    ],
  });
  const parts: RuleDefinition = rollUp({
    ...{ type: 'institution', target: 'lentTotal', aggregate: 'sum', value: fieldOf('insuredValue') },
    route: [{ direction: 'down', type: 'loan', link: 'lender' }],
    also: [
      {
        route: [{ direction: 'down', type: 'institution', link: 'partOf' }],
        ...{ value: fieldOf('lentTotal'), condition: null },
      },
    ],
  });
  expect(await tellingSample(other.key, parts)).toBe(house);
  await other.remove();
});
