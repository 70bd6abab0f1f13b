import type { RollUp } from '@/core/rules';
import { fieldOf, galleries, gbp, rollUp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { cascade, CASCADES, touring } from '@/core/testing/touring';
import { disconnect } from '@/server/database/connection';
import { driftIn } from '@/server/testing/drift';
import { refusal } from '@/server/testing/refusal';
import { type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { getExplanation } from './explanation';
import { getFamily } from './family';

const BENEATH = { direction: 'down', type: 'institution', link: 'partOf', isAllTheWay: true } as const;
const LOANS = { direction: 'down', type: 'loan', link: 'lender' } as const;
const [trust, north, hall, apart] = ['1', '2', '3', '4'].map(uuid) as [string, string, string, string];
const AVERAGE: RollUp = rollUp({
  ...{ type: 'institution', target: 'lentTotal', aggregate: 'average', whenNone: null, route: [LOANS] },
  value: fieldOf('insuredValue'),
  also: [{ route: [BENEATH, LOANS], value: fieldOf('insuredValue'), condition: null }],
});
const page = { from: 0, limit: 50 };

afterAll(disconnect);

describe('over any depth', () => {
  const model = galleries();
  let workspace: TestWorkspace;
  beforeAll(async () => {
    const institution = (id: string, title: string, partOf: string | null) =>
      rowOf(model, 'institution', id, { title, partOf });
    const loan = (id: string, title: string, lender: string, amount: number) =>
      rowOf(model, 'loan', uuid(id), { title, lender, insuredValue: gbp(amount) });
    workspace = await testWorkspace({
      model,
      rules: [ruleOf(AVERAGE, 1)],
      rows: [
        ...[
          institution(trust, 'Trust', null),
          institution(north, 'North', trust),
          institution(hall, 'Hall', north),
        ],
        institution(apart, 'Apart', null),
        ...[loan('21', 'Robes', trust, 10), loan('22', 'Pots', hall, 20), loan('23', 'Kites', hall, 60)],
        loan('24', 'Fans', apart, 900),
      ],
    });
  });
  afterAll(() => workspace.remove());

  test('a value opens into the records of all depths, and no others', async () => {
    const explained = await getExplanation(await workspace.load(), {
      ...{ type: 'institution', id: trust, field: 'lentTotal', ...page },
    });
    expect(explained.members.map(({ title }) => title).sort()).toEqual(['Kites', 'Pots', 'Robes']);
    expect(explained.result).toMatchObject({ value: { text: '30.00 GBP' } });
    expect(await driftIn(workspace)).toEqual([]);
  });

  test('a family brings along what lies beneath at any depth', async () => {
    const family = await getFamily(await workspace.load(), 'institution', trust);
    const ids = family.records.map(({ id }) => id);
    expect([hall, uuid('22'), uuid('23')].every((id) => ids.includes(id))).toBe(true);
    expect(ids).not.toContain(uuid('24'));
  });
});

test('what several may cascade to opens into all of them; where nothing is kept it says so', async () => {
  const model = touring();
  const loan = (id: string, title: string, stage: string, dueBack: string) =>
    rowOf(model, 'loan', uuid(id), { title, lender: trust, stage, dueBack });
  const workspace = await testWorkspace({
    model,
    rules: [ruleOf(cascade({ ...CASCADES.dealings, moment: 'inStep' }), 1)],
    rows: [
      rowOf(model, 'institution', trust, { title: 'Trust' }),
      loan('21', 'Robes', 'agreed', '2027-09-30'),
      loan('22', 'Pots', 'requested', '2027-10-31'),
    ],
  });
  const explained = await getExplanation(await workspace.load(), {
    ...{ type: 'institution', id: trust, field: 'dealings', ...page },
  });
  expect(explained.formula?.several?.sources.map(({ title, standing }) => [title, standing])).toEqual([
    ['Pots', 'leads'],
    ['Robes', 'behind'],
  ]);
  const nothing = getExplanation(await workspace.load(), {
    ...{ type: 'institution', id: trust, field: 'lentTotal', ...page },
  });
  expect((await refusal(nothing)).code).toBe('field.notKept');
  await workspace.remove();
});
