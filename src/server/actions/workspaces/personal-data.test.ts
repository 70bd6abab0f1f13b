import { galleries } from '@/core/testing/galleries';
import { QueryTypes } from 'sequelize';
import { saveEdits } from '@/server/actions/records/save-edits';
import { database, disconnect } from '@/server/database/connection';
import { securityEvents } from '@/server/sign-in/security-events';
import { beginSession, signedInBy } from '@/server/sign-in/sessions';
import { accountOf } from '@/server/sign-in/sign-in';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { forgetPerson, personalData } from './personal-data';

let workspace: TestWorkspace;
const ola = '00000000-0000-7000-8000-0000000000a1';
const NAME = `Ola Out ${process.pid}`;
const EMAIL = `ola-${process.pid}@choir.example`;
const query = (text: string, bind: unknown[] = []) =>
  database().query<Record<string, unknown>>(text, { bind, type: QueryTypes.SELECT });

beforeAll(async () => {
  workspace = await testWorkspace({ model: galleries(), rows: [], rules: [] });
  await query(
    `INSERT INTO person (id, name, email, role, password) VALUES ($1, $2, $3, 'Singer', 'x') ON CONFLICT (id) DO UPDATE SET name = EXCLUDED.name, email = EXCLUDED.email`,
    [ola, NAME, EMAIL],
  );
  await query(
    `INSERT INTO membership (workspace_id, person_id, role) SELECT id, $1, 'editor' FROM workspace WHERE key = $2`,
    [ola, workspace.key],
  );
  await query(`UPDATE "${(await workspace.load()).schema}"._state SET epoch = epoch + 1`);
});
afterAll(async () => {
  await workspace.remove();
  await query('DELETE FROM person WHERE id = $1', [ola]);
  await disconnect();
});

test('all that is kept of a person is given out; taken out, they are nobody that a ledger names', async () => {
  const session = await beginSession(
    ola,
    { address: '192.0.2.7', agent: 'Test' },
    { way: 'password', factors: 1 },
  );
  const note = `For ${NAME} (${EMAIL})`;
  const edits = [{ kind: 'create' as const, type: 'institution', values: { title: `House of ${NAME}` } }];
  await saveEdits({ workspace: workspace.key, person: ola, edits, note });
  const data = await personalData(ola);
  expect(data).toMatchObject({
    ...{ account: { name: NAME, email: EMAIL, isOperator: false }, groups: [] },
    ...{
      workspaces: [{ role: 'editor', left: null }],
      sessions: [{ address: '192.0.2.7', program: 'Test' }],
    },
  });

  expect((await refusal(forgetPerson(ola, 'Ola', TESTER.id))).code).toBe('person.confirm');
  expect((await refusal(forgetPerson(ola, NAME, ola))).code).toBe('person.own');
  expect((await refusal(forgetPerson('nobody', NAME, TESTER.id))).code).toBe('person.unknown');
  expect((await refusal(forgetPerson(TESTER.id, TESTER.name, ola))).code).toBe('member.last');
  await forgetPerson(ola, NAME, TESTER.id);
  expect(await signedInBy(session)).toBeNull();
  expect(await accountOf(EMAIL)).toBeNull();
  const fresh = await workspace.load();
  expect(fresh.people.get(ola)).toBe('A person (no longer here)');
  const runs = await query(`SELECT note FROM "${fresh.schema}"._run`);
  expect(runs.map((one) => one.note)).toContain('For a person (a person)');
  // What somebody wrote into a record stays the workspace's own.
  const [house] = await query(`SELECT title FROM "${fresh.schema}".institution`);
  expect(house).toEqual({ title: `House of ${NAME}` });
  // Other tests of this installation add theirs meanwhile.
  const { events } = await securityEvents(null, 50);
  expect(events.find(({ kind }) => kind === 'personForgotten')).toMatchObject({
    ...{ person: 'A person', by: TESTER.name },
  });
});
