import { readdirSync, readFileSync } from 'node:fs';
import { Client } from 'pg';
import { saveEdits } from '@/server/actions/records/save-edits';
import { getRecord } from '@/server/queries/records/records';
import { loadWorkspace } from '@/server/store/session/workspace';
import { driftIn } from '@/server/testing/drift';
import { answersOf } from '@/server/testing/stored-workspace';
import { TESTER } from '@/server/testing/workspace';
import { disconnect } from './connection';
import { migrateEverything } from './migrate';

// Databases as earlier versions of the program stored them, with what they answered (`testing/make-stored.ts`).
const FOLDER = 'src/server/testing/stored';
const versions = readdirSync(FOLDER).flatMap((file) => /^(.*)\.sql$/.exec(file)?.[1] ?? []);
const url = process.env.DATABASE_URL ?? '';
const name = `upgrade_${process.pid}`;

const asAdmin = async (work: (client: Client) => Promise<unknown>, connectionString = url): Promise<void> => {
  const client = new Client({ connectionString });
  await client.connect();
  await work(client);
  await client.end();
};

beforeEach(() => asAdmin((client) => client.query(`CREATE DATABASE ${name}`)));
afterEach(async () => {
  await disconnect();
  process.env.DATABASE_URL = url;
  await asAdmin((client) => client.query(`DROP DATABASE ${name}`));
});

test('there is what an earlier version stored', () => expect(versions).not.toEqual([]));

test.each(versions)('what version %s stored is brought up to date and answers as it did', async (version) => {
  const here = url.replace(/[^/]*$/, name);
  await asAdmin((client) => client.query(readFileSync(`${FOLDER}/${version}.sql`, 'utf8')), here);
  process.env.DATABASE_URL = here;
  await migrateEverything();
  const stored = JSON.parse(readFileSync(`${FOLDER}/${version}.json`, 'utf8')) as {
    readonly workspace: string;
    readonly answers: { readonly records: { readonly records: { readonly id: string }[] }[] };
  };
  const { workspace } = stored;
  // Later versions may answer more, but nothing otherwise.
  expect(await answersOf(workspace)).toMatchObject(stored.answers);
  const load = () => loadWorkspace(workspace);
  expect(await driftIn({ load })).toEqual([]);
  // It goes on from there.
  const vase = '00000000-0000-7000-8000-000000000011';
  await saveEdits({
    ...{ workspace, person: TESTER.id },
    edits: [{ kind: 'create', type: 'treatment', values: { title: 'Another', artefact: vase } }],
  });
  const { record } = await getRecord(await load(), 'artefact', vase);
  expect(record.values).toMatchObject({ treatments: '2', worth: '80' });
  expect(await driftIn({ load })).toEqual([]);
});
