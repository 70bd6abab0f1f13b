import { fetchRates } from '@/server/actions/records/fetch-rates';
import { insertProofs } from '@/server/actions/bundles/insert-parts';
import { makeWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { addRequest, agreeTo } from '@/server/actions/rules/requests';
import { addList } from '@/server/actions/records/saved-lists';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';
import { database, disconnect } from '@/server/database/connection';
import type { Role } from '@/core/api';
import { migrateEverything } from '@/server/database/migrate';
import { models } from '@/server/database/models';
import { loadRows } from '@/server/store/schema/load-rows';
import { loadWorkspace, reloadWorkspace } from '@/server/store/session/workspace';
import { shiftDay, firstIn, itemAt, valueAt } from '@/core/values';
import type { Proof } from '@/core/verify';
import { simulatedRates } from '@/standins/simulated-rates';
import { v7 as newId } from 'uuid';
import { LISTS } from './lists';
import { WRENFIELD } from './model';
import { demoProofs, demoRules } from './proofs';
import { REQUESTS, ruleWriting } from './requests';
import { demoData } from './records';
import { RULES } from './rules/rules';

const KEY = 'wrenfield';

/** Brings the tables up to date and loads the demo into an empty database; `--reset` loads it afresh. */
async function main(): Promise<void> {
  await reach();
  await migrateEverything();
  const { Workspace } = models();
  if (process.argv.includes('--reset')) await removeWorkspace(KEY);
  if (!(await Workspace.findOne({ where: { key: KEY } }))) await load();
}

async function reach(): Promise<void> {
  try {
    await database().authenticate();
  } catch (error) {
    console.error(
      `The database can’t be reached: ${(error as Error).message}. Check DATABASE_URL and that the server runs.`,
    );
    process.exit(1);
  }
}

/** What the made-up people may do, so that a newcomer sees what each role is by being them. */
const ACCESS_OF: Readonly<Record<string, Role>> = {
  'Ines Valcourt': 'administrator',
  'Maren Oduya': 'ruleApprover',
  'Priya Ramanathan': 'ruleWriter',
  'Elsie Hartnoll': 'bulkEditor',
  'Jonas Achterberg': 'bulkEditor',
  'Callum Reyes': 'reader',
};

async function load(): Promise<void> {
  console.log('Loading the Wrenfield demo …');
  const { people, rows } = demoData();
  const person = firstIn(people).id;
  await makeWorkspace({
    key: KEY,
    name: 'Wrenfield Touring',
    timeZone: 'Europe/London',
    settledDay: new Date().toISOString().slice(0, 10),
    model: WRENFIELD,
    people,
  });
  for (const { id, name } of people)
    await models().Membership.update({ role: ACCESS_OF[name] ?? 'editor' }, { where: { personId: id } });
  await loadRows(await reloadWorkspace(KEY), rows, person);
  await fetchRates({ workspace: KEY, person, service: simulatedRates });
  const ids: string[] = [];
  for (const { definition: written, name, note, state, actsOnMatching = false, tells } of RULES) {
    const inCharge = people.find((one) => one.name === tells)?.id;
    const definition = inCharge ? { ...written, tells: inCharge } : written;
    const id = await createRule({ workspace: KEY, person, definition, note, ...(name ? { name } : {}) });
    ids.push(id);
    if (state !== 'draft') await changeState({ workspace: KEY, person, id, state: 'live', actsOnMatching });
    if (state === 'paused') await changeState({ workspace: KEY, person, id, state: 'paused' });
  }
  await loadRequests(person, ids, await loadProofs(person, ids));
  for (const list of LISTS) await addList({ workspace: KEY, person }, list);
  console.log(`Loaded ${rows.length} records.`);
}

/** The proofs of its rules, by the ids that these got. */
async function loadProofs(person: string, ids: readonly string[]): Promise<readonly Kept[]> {
  const known = new Map(demoRules().map(({ id }, at) => [id, itemAt(ids, at)]));
  const proofs = demoProofs((rule) => valueAt(known, rule)).map((proof) => ({ ...proof, id: newId() }));
  const { schema } = await loadWorkspace(KEY);
  await database().transaction((transaction) => insertProofs(transaction, schema, proofs, person));
  return proofs;
}

type Kept = Pick<Proof, 'id' | 'rule' | 'name'>;

async function loadRequests(person: string, ids: readonly string[], proofs: readonly Kept[]): Promise<void> {
  const by = { workspace: KEY, person };
  const { settledDay } = await loadWorkspace(KEY);
  const ruleOf = (what: string) => itemAt(ids, ruleWriting(what));
  const proofOf = (what: string, name: string) => {
    const found = proofs.find((proof) => proof.rule === ruleOf(what) && proof.name.startsWith(name));
    if (!found) throw new RangeError(`The rule for ${what} has no proof “${name}”.`);
    return found.id;
  };
  for (const { name, askedBy, words, dueIn, rules, points, agreed } of REQUESTS) {
    const { id, version } = await addRequest(by, {
      ...{ name, askedBy, words, due: dueIn === null ? null : shiftDay(settledDay, dueIn) },
      rules: rules.map(ruleOf),
      points: points.map(({ text, shown }) => ({ text, proofs: shown.map(([of, one]) => proofOf(of, one)) })),
    });
    if (agreed) await agreeTo(by, id, { ...agreed, version });
  }
}

main()
  .then(disconnect)
  .catch((error: unknown) => {
    console.error(error);
    process.exit(1);
  });
