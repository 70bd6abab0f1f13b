import { ALL_RULES, galleries, gbp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import type { RollUp } from '@/core/rules';
import { disconnect } from '@/server/database/connection';
import { migrateEverything } from '@/server/database/migrate';
import { inSave } from '@/server/store/session/transactions';
import type { Transaction } from 'sequelize';
import { run } from '@/server/store/sql/sql';
import { listRuns } from '@/server/queries/ledger/runs';
import { loadWorkspace } from '@/server/store/session/workspace';
import { driftIn } from '@/server/testing/drift';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { chooseForm } from './forms';
import { type Form, PLAIN_FORM } from '@/core/values';
import { everybody } from '@/server/queries/workspaces/people';
import { installationEvents } from '@/server/queries/workspaces/installation-events';
import {
  addWorkspace,
  changeWorkspace,
  listWorkspaces,
  removeConfirmed,
  removeWorkspace,
} from './make-workspace';
import { saveEdits } from '@/server/actions/records/save-edits';

const model = galleries();
const [silk, loan] = [uuid('11'), uuid('21')];
/** Reacts to how many loans there are, before others into the same field, or after them. */
const opens = (precedence: number, than: string): RollUp => ({
  ...{ kind: 'rollUp', type: 'exhibition', target: 'open', aggregate: 'count', value: null, precedence },
  route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
  ...{ condition: null, whenNone: null, rounding: null, pace: 'withTheSave' },
  map: { rows: [{ operator: '>=', than, writes: true }], otherwise: { kind: 'asItIs' } },
});
const RULES = [...ALL_RULES, ruleOf(opens(1, '5'), 90), ruleOf(opens(2, '6'), 91)];
let workspace: TestWorkspace;
const made: string[] = [];

beforeAll(async () => {
  workspace = await testWorkspace({
    ...{ model, rules: RULES },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
      rowOf(model, 'loan', loan, {
        ...{ title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) },
      }),
    ],
  });
});
afterAll(async () => {
  for (const key of made) await removeWorkspace(key);
  await workspace.remove();
  await disconnect();
});

const add = async (input: Parameters<typeof addWorkspace>[0]) => {
  const view = await addWorkspace(input, TESTER.id);
  made.push(view.key);
  return view;
};
const saveValue = (key: string, amount: string) =>
  saveEdits({
    ...{ workspace: key, person: TESTER.id },
    edits: [{ kind: 'edit', type: 'loan', id: loan, values: { insuredValue: { amount, currency: 'GBP' } } }],
  });
const totalIn = async (key: string) =>
  (await workspace.rowsOf(key)).find(({ id }) => id === silk)?.values.insuredTotal;

test('a copy with records goes its own way: rules are live in it, and neither touches the other', async () => {
  await saveValue(workspace.key, '120.00');
  const copy = await add({ name: `${workspace.key} trial`, copyOf: workspace.key, withRecords: true });
  const runs = await listRuns(await loadWorkspace(copy.key), null, 50);
  await saveValue(copy.key, '5.00');
  expect([await totalIn(copy.key), await totalIn(workspace.key)]).toEqual([gbp(5), gbp(120)]);
  const after = await listRuns(await loadWorkspace(copy.key), null, 50);
  expect(after.runs.slice(1)).toEqual(runs.runs);
  expect(await driftIn({ load: () => loadWorkspace(copy.key) })).toEqual([]);
});

test('a copy without records has the model and the rules, which keep what is entered there', async () => {
  const copy = await add({ name: `${workspace.key} shell`, copyOf: workspace.key });
  const loaded = await loadWorkspace(copy.key);
  expect([loaded.model.types, loaded.plan.rules.length]).toEqual([model.types, RULES.length]);
  expect(await workspace.rowsOf(copy.key)).toEqual([]);
  await saveEdits({
    ...{ workspace: copy.key, person: TESTER.id },
    edits: [
      { kind: 'create', type: 'exhibition', id: silk, values: { title: 'Silk' } },
      {
        ...{ kind: 'create', type: 'loan' },
        values: {
          ...{ title: 'Robes', exhibition: silk, stage: 'agreed' },
          insuredValue: { amount: '7.00', currency: 'GBP' },
        },
      },
    ],
  });
  expect(await totalIn(copy.key)).toEqual(gbp(7));
  expect(await driftIn({ load: () => loadWorkspace(copy.key) })).toEqual([]);
});

test('an empty one is made, renamed, and removed once its name is typed', async () => {
  const { key } = await add({ name: 'Küche & Hof', timeZone: 'Europe/London' });
  expect(key).toMatch(/^kuche-hof/);
  expect(await changeWorkspace(key, { name: '  Kitchen and yard ' }, TESTER.id)).toEqual({
    ...{ key, name: 'Kitchen and yard', form: PLAIN_FORM },
  });
  expect(await refusal(removeConfirmed(key, 'kitchen', TESTER.id))).toMatchObject({
    ...{ status: 409, code: 'workspace.confirm' },
  });
  await removeConfirmed(key, 'Kitchen and yard', TESTER.id);
  expect((await listWorkspaces()).map((one) => one.key)).not.toContain(key);
  expect(await refusal(loadWorkspace(key))).toMatchObject({ status: 404 });
});

test('how numbers and dates are written is said for a workspace, kept by its copies, and noted', async () => {
  const form: Form = { decimal: ',', grouping: '.', dates: 'dayFirst' };
  const source = await add({ name: `${workspace.key} comma` });
  expect(await changeWorkspace(source.key, { form }, TESTER.id)).toMatchObject({ form });
  const copy = await add({ name: `${workspace.key} comma copy`, copyOf: source.key });
  const forms = new Map((await listWorkspaces()).map((one) => [one.key, one.form]));
  expect([copy.form, forms.get(source.key), forms.get(copy.key), forms.get(workspace.key)]).toEqual([
    ...[form, form, form, PLAIN_FORM],
  ]);
  const { events } = await installationEvents(null, 10);
  expect(events.filter(({ kind }) => kind === 'form')).toMatchObject([
    { workspace: source.key, data: { form } },
  ]);
  await changeWorkspace(source.key, { form }, TESTER.id);
  expect((await installationEvents(null, 10)).events.filter(({ kind }) => kind === 'form')).toHaveLength(1);
});

test('how they write people say for themselves, and for nobody else', async () => {
  const form: Form = { decimal: '.', grouping: '’', dates: 'monthFirst' };
  expect(await chooseForm(TESTER.id, form, TESTER.id)).toMatchObject({ id: TESTER.id, form });
  expect((await everybody()).find(({ id }) => id === TESTER.id)?.form).toEqual(form);
  expect(await refusal(chooseForm(TESTER.id, null, uuid('77')))).toMatchObject({ code: 'person.other' });
  expect(await chooseForm(TESTER.id, null, TESTER.id)).toMatchObject({ form: null });
});

test('a name that is taken, empty or too long, and an unknown time zone are refused', async () => {
  const refused = async (input: Parameters<typeof addWorkspace>[0]) => (await refusal(add(input))).code;
  expect(await refused({ name: workspace.key.toUpperCase() })).toBe('workspace.taken');
  expect(await refused({ name: '  ' })).toBe('workspace.name');
  expect(await refused({ name: 'x'.repeat(61) })).toBe('workspace.name');
  expect(await refused({ name: 'Nowhere', timeZone: 'Europe/Atlantis' })).toBe('workspace.timeZone');
  expect(await refused({ name: 'Copy', copyOf: 'not-there' })).toBe('workspace.unknown');
});

/** Names of Oikon's own as they were once, and without what came later. */
async function makeEarlier(transaction: Transaction, schema: string): Promise<void> {
  await run(transaction, `SET LOCAL search_path TO "${schema}"`);
  await run(
    transaction,
    `DROP TRIGGER _live_noted ON _rule;
     DROP TRIGGER _day_noted ON _state;
     DROP FUNCTION _note_live, _note_day, _begin_save_at_once;
     DROP TABLE _live_span, _settled_day, _approval;
     ALTER TABLE _rule DROP COLUMN is_named, DROP COLUMN tags, DROP COLUMN pilot_version;
     DROP TABLE _unfinished_rule;
     ALTER TABLE _run DROP COLUMN filled, DROP COLUMN counted;
     DROP TABLE _request_key;
     DROP VIEW _made_ever;
     DROP TABLE _unmade, _put_again;
     ALTER TABLE _proposal DROP COLUMN earlier, DROP COLUMN was;
     ALTER TABLE _state DROP COLUMN rates_day, DROP COLUMN day_problem;
     ALTER TABLE _message DROP COLUMN next_at, DROP COLUMN first_at, DROP COLUMN failed_at;
     CREATE INDEX _message_unsent ON _message (id) WHERE sent_at IS NULL;
     DO $$ DECLARE found record; BEGIN
       FOR found IN SELECT relname, relkind FROM pg_class WHERE relnamespace = current_schema()::regnamespace AND left(relname, 1) = '_'
           AND relkind IN ('r', 'i', 'S') AND relname <> '_migration' AND relname <> '_migration_pkey' LOOP
         EXECUTE format('ALTER %s %I RENAME TO %I', CASE found.relkind WHEN 'i' THEN 'INDEX' WHEN 'S' THEN 'SEQUENCE' ELSE 'TABLE' END,
           found.relname, substr(found.relname, 2));
       END LOOP;
     END $$;
     DELETE FROM _migration WHERE name = '007-leaders' OR name >= '015';
     ALTER TABLE _migration RENAME TO migration;
     SET LOCAL search_path TO DEFAULT`,
  );
}

test('a workspace of an earlier version is brought up to date: what its live rules need beside their fields is made', async () => {
  const never = () => false;
  const columns = () =>
    inSave(workspace.key, never, ({ workspace: { schema }, transaction }) =>
      run<{ name: string }>(
        transaction,
        `SELECT column_name AS name FROM information_schema.columns
          WHERE table_schema = $1 AND table_name = 'exhibition' AND (right(column_name, 3) IN ('__l', '__r') OR starts_with(column_name, '_row_'))
          ORDER BY starts_with(column_name, '_row_'), column_name`,
        [schema],
      ),
    );
  const before = await columns();
  const [leader, ...rows] = before.map(({ name }) => name);
  expect([leader, rows.length]).toEqual(['last_due__l', 2]);
  await inSave(workspace.key, never, async ({ workspace: { schema }, transaction }) => {
    await run(
      transaction,
      `ALTER TABLE "${schema}".exhibition DROP COLUMN last_due__l, DROP COLUMN ${rows[0]}, ADD COLUMN insured_total__r integer`,
    );
    await run(transaction, `ALTER TABLE "${schema}".exhibition RENAME COLUMN ${rows[1]} TO open__r`);
    await makeEarlier(transaction, schema);
  });
  await migrateEverything();
  expect(await columns()).toEqual(before);
  await saveEdits({
    ...{ workspace: workspace.key, person: TESTER.id },
    edits: [{ kind: 'edit', type: 'loan', id: loan, values: { dueBack: '2027-05-01' } }],
  });
  expect(await driftIn(workspace)).toEqual([]);
});
