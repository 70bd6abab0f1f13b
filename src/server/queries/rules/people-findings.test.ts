import { galleries, INSURED_TOTAL } from '@/core/testing/galleries';
import { inspections, TREATMENT } from '@/core/testing/inspections';
import type { RuleDefinition } from '@/core/rules';
import { changeRoleAccess } from '@/server/actions/workspaces/role-access';
import { disconnect } from '@/server/database/connection';
import { run } from '@/server/store/sql/sql';
import { inInstallation } from '@/server/store/session/transactions';
import { reloadWorkspace } from '@/server/store/session/workspace';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { ruleMeasures } from './rule-measures';

let workspace: TestWorkspace;
const gone = '00000000-0000-7000-8000-00000000090e';
const ALL = { see: true, add: false, change: false, delete: false, export: true, selection: null, own: null };
const codes = async (definition: RuleDefinition) =>
  (await ruleMeasures(workspace.key, definition)).filter(({ code }) => /^(person|sight)\./.test(code));

beforeAll(async () => {
  workspace = await testWorkspace({ model: galleries(), rows: [], rules: [] });
  await inInstallation(async (transaction) => {
    await run(
      transaction,
      `INSERT INTO public.person (id, name, email, role) VALUES ($1, 'Gil Gone', $2, '') ON CONFLICT DO NOTHING`,
      [gone, `gone-${process.pid}@choir.example`],
    );
    await run(
      transaction,
      `INSERT INTO public.membership (workspace_id, person_id, role, left_at) SELECT id, $1, 'editor', now() FROM public.workspace WHERE key = $2`,
      [gone, workspace.key],
    );
  });
  await reloadWorkspace(workspace.key);
});
afterAll(async () => {
  await workspace.remove();
  await inInstallation((transaction) => run(transaction, 'DELETE FROM public.person WHERE id = $1', [gone]));
  await disconnect();
});

test('a rule that brings what a role doesn’t see into what it sees says so, and whom', async () => {
  const by = { workspace: workspace.key, person: TESTER.id, isOperator: false };
  expect(await codes(INSURED_TOTAL)).toEqual([]);
  await changeRoleAccess(by, 'reader', { loan: { ...ALL, fields: { insuredValue: 'hidden' } } });
  await changeRoleAccess(by, 'editor', {
    loan: { ...ALL, fields: { insuredValue: 'hidden' } },
    exhibition: { ...ALL, fields: { insuredTotal: 'hidden' } },
  });
  expect(await codes(INSURED_TOTAL)).toEqual([
    {
      code: 'sight.brings',
      why: 'It brings Insured value of Loans into Insured total of Exhibitions: whoever is Reader sees the latter, and not the former. Hide the latter from them too, or leave it so where that is meant.',
      fix: null,
    },
  ]);
});

test('a rule that makes records brings what is hidden into each field that it fills', async () => {
  const made = await testWorkspace({ model: inspections(), rows: [], rules: [] });
  const by = { workspace: made.key, person: TESTER.id, isOperator: false };
  await changeRoleAccess(by, 'reader', { inspection: { ...ALL, fields: { remark: 'hidden' } } });
  const found = (await ruleMeasures(made.key, TREATMENT)).filter(({ code }) => code === 'sight.brings');
  expect(found.map(({ why }) => why.split(':')[0])).toEqual([
    'It brings Remark of Inspections into Cause of Treatments',
  ]);
  await made.remove();
});

test('a rule that writes to who is no longer here says so', async () => {
  const tells = (person: string) => ({ ...INSURED_TOTAL, tells: person }) as RuleDefinition;
  expect(await codes(tells(TESTER.id))).toMatchObject([{ code: 'sight.brings' }]);
  expect(await codes(tells(gone))).toMatchObject([
    { code: 'person.gone', why: expect.stringContaining('It writes to Gil Gone') as string },
    { code: 'sight.brings' },
  ]);
});
