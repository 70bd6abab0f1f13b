import { certain, firstIn, PLAIN_FORM, sameForm } from '@/core/values';
import { checkSelections } from '@/core/expression';
import { checkModel, type ModelDefinition, readModel } from '@/core/model';
import type { WorkspaceView } from '@/core/api';
import { QueryTypes, Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { migrateInstallation, migrateWorkspace } from '@/server/database/migrate';
import { models, type Workspace as StoredWorkspace } from '@/server/database/models';
import { dayIn, isTimeZone, notATimeZone } from '@/server/day';
import { Refusal } from '@/server/refusal';
import { settings } from '@/server/settings';
import { copyAll, copyRules } from '@/server/store/schema/copy-workspace';
import { makeKeptColumns } from '@/server/store/sets/fill';
import { quote, run } from '@/server/store/sql/sql';
import { createTables } from '@/server/store/schema/tables';
import { holdRequiredLinks } from '@/server/store/schema/required-links';
import { inInstallation } from '@/server/store/session/transactions';
import { currentWorkspace, forgetWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { noteEvent } from './installation-events';
import type { WorkspaceInput } from '@/server/forms/types';
import type { Inputs } from '@/server/forms/input';
import { storedForm } from './forms';

/** A workspace's name, and its key. */
type WorkspaceName = Pick<WorkspaceView, 'key' | 'name'>;

export interface NewWorkspace {
  readonly key: string;
  readonly name: string;
  readonly timeZone: string;
  /** The day up to which dated conditions are worked out (`2026-03-14`). */
  readonly settledDay: string;
  readonly model: ModelDefinition;
  readonly people: readonly {
    readonly id: string;
    readonly name: string;
    readonly email: string;
    readonly role: string;
  }[];
}

const schemaOf = (key: string): string => `w_${key.replaceAll('-', '_')}`;

/** Makes a workspace: its schema, its state and the tables of its model. Refuses (throws) a model with problems. */
export async function makeWorkspace(input: NewWorkspace, person: string | null = null): Promise<void> {
  const own = checkModel(input.model);
  const problems =
    own.length > 0
      ? own
      : checkSelections(readModel({ ...input.model, timeZone: input.timeZone }, input.settledDay));
  if (problems.length > 0)
    throw new RangeError(problems.map((problem) => `${problem.place}: ${problem.message}`).join('\n'));
  await migrateInstallation();
  await inInstallation(async (transaction) => {
    const { Person } = models();
    await Person.bulkCreate([...input.people], { ignoreDuplicates: true, transaction });
    const { schema } = await enter(transaction, input.key, input.name, input.people);
    await begin(transaction, schema, input);
    const { key: workspace, name } = input;
    await noteEvent(transaction, { person, kind: 'made', workspace, name });
  });
}

/** The tables of a first model in a schema that has none yet, and the state from which it begins. */
export async function begin(
  transaction: Transaction,
  schema: string,
  { model, settledDay, timeZone }: Pick<NewWorkspace, 'model' | 'settledDay' | 'timeZone'>,
  epoch = 1,
): Promise<void> {
  await createTables(transaction, schema, readModel(model));
  const s = quote(schema);
  const stored = firstIn(
    await run<{ id: string }>(
      transaction,
      `INSERT INTO ${s}._model_version (definition) VALUES ($1) RETURNING id::text`,
      [JSON.stringify(model)],
    ),
  );
  await run(
    transaction,
    `INSERT INTO ${s}._state (epoch, settled_day, time_zone, model) VALUES ($1, $2, $3, $4)`,
    [epoch, settledDay, timeZone, stored.id],
  );
}

/** A workspace's entry in the installation, and its schema with what every workspace has. */
export async function enter(
  transaction: Transaction,
  key: string,
  name: string,
  people: readonly { readonly id: string }[],
): Promise<StoredWorkspace> {
  const { Workspace, Membership } = models();
  const workspace = await Workspace.create({ key, name, schema: schemaOf(key) }, { transaction });
  await Membership.bulkCreate(
    people.map(({ id }) => ({ workspaceId: workspace.id, personId: id })),
    { transaction },
  );
  await migrateWorkspace(workspace.schema, workspace.id, transaction);
  return workspace;
}

/** Who takes part in a new workspace at first: whoever makes it; in the demo, where one chooses who one is, everybody. */
async function peopleOfNew(person: string): Promise<NewWorkspace['people']> {
  const where = { where: settings().isDemo ? { isService: false } : { id: person } };
  const found = await models().Person.findAll({ attributes: ['id', 'name', 'email', 'role'], ...where });
  return found.map(({ id, name, email, role }) => ({ id, name, email, role }));
}

/** The workspaces in which a person takes part. */
export async function workspacesOf(person: string): Promise<WorkspaceView[]> {
  const { Workspace } = models();
  const roles = await database().query<{ id: number }>(
    'SELECT workspace_id AS id FROM member_role WHERE person_id = $1',
    { bind: [person], type: QueryTypes.SELECT },
  );
  const ids = [...new Set(roles.map(({ id }) => id))];
  const found = await Workspace.findAll({ where: { id: ids }, order: [['name', 'ASC']] });
  return found.map(({ key, name, form }) => ({ key, name, form: form ?? PLAIN_FORM }));
}

/**
 * Makes an empty workspace, or a copy of another with the people of that one. A copy is
 * made by one statement for each table, as its data stands at one moment; nobody waits for it.
 */
export async function addWorkspace(input: WorkspaceInput, person: string): Promise<WorkspaceView> {
  const { name, key } = await newWorkspaceName(input.name);
  if (input.copyOf !== undefined) return copyWorkspace(input, { name, key, person });
  const people = await peopleOfNew(person);
  const timeZone = checkTimeZone(input.timeZone ?? 'UTC');
  const model: ModelDefinition = { types: [] };
  await makeWorkspace(
    { key, name, timeZone, settledDay: dayIn(timeZone, new Date()), model, people },
    person,
  );
  return { key, name, form: PLAIN_FORM };
}

/** A name for a new workspace, and its key. Refuses a name that is taken. */
export async function newWorkspaceName(name: string): Promise<WorkspaceName> {
  const known = await listWorkspaces();
  const checked = checkName(known, name, null);
  return { name: checked, key: freeKey(known, checked) };
}

async function copyWorkspace(
  input: WorkspaceInput,
  { name, key, person }: WorkspaceName & { readonly person: string },
): Promise<WorkspaceView> {
  const known = await loadWorkspace(certain(input.copyOf));
  if (!settings().isDemo && !known.people.has(person))
    throw new Refusal(
      404,
      'workspace.unknown',
      `There is no workspace “${known.key}”. It may have been removed.`,
    );
  const { form } = await storedWorkspace(known.key);
  await inInstallation(async (transaction) => {
    await run(transaction, 'SET LOCAL statement_timeout = 0');
    const source = await currentWorkspace(transaction, known);
    const people = [...source.people.keys()].map((id) => ({ id }));
    const stored = await enter(transaction, key, name, people);
    await copyRoles(transaction, source.id, stored.id);
    await stored.update({ form }, { transaction });
    const { schema } = stored;
    await copyRules(transaction, source, schema);
    await createTables(transaction, schema, source.model, source.model.types, async () => {
      await makeKeptColumns(transaction, { model: source.model, schema }, source.plan.rules);
      if (input.withRecords) await copyAll(transaction, source, schema);
    });
    await holdRequiredLinks(transaction, schema);
    const data = { copyOf: known.key, withRecords: input.withRecords === true };
    await noteEvent(transaction, { person, kind: 'copied', workspace: key, name, data });
  }, Transaction.ISOLATION_LEVELS.REPEATABLE_READ);
  return { key, name, form: form ?? PLAIN_FORM };
}

/** In a copy everybody may what they may in the workspace that it is of, and as much is wanted of them. */
async function copyRoles(transaction: Transaction, from: number, to: number): Promise<void> {
  await run(
    transaction,
    `WITH own AS MATERIALIZED (SELECT gen_random_uuid() AS id, id AS before, name, rights FROM public.own_role WHERE workspace_id = $1),
      roles AS (INSERT INTO public.own_role (id, workspace_id, name, rights) SELECT id, $2, name, rights FROM own),
      groups AS (INSERT INTO public.group_role (group_id, workspace_id, role)
        SELECT g.group_id, $2, COALESCE(o.id::text, g.role) FROM public.group_role g LEFT JOIN own o ON o.before::text = g.role WHERE g.workspace_id = $1),
      accesses AS (INSERT INTO public.role_access (workspace_id, role, access)
        SELECT $2, COALESCE(o.id::text, a.role), a.access FROM public.role_access a LEFT JOIN own o ON o.before::text = a.role WHERE a.workspace_id = $1),
      wanted AS (UPDATE public.workspace w SET two_people = s.two_people,
          second_factor = ARRAY(SELECT COALESCE(o.id::text, k) FROM unnest(s.second_factor) k LEFT JOIN own o ON o.before::text = k)
        FROM public.workspace s WHERE s.id = $1 AND w.id = $2)
      UPDATE public.membership m SET role = COALESCE(o.id::text, s.role), left_at = s.left_at
        FROM public.membership s LEFT JOIN own o ON o.before::text = s.role
        WHERE s.workspace_id = $1 AND m.workspace_id = $2 AND m.person_id = s.person_id`,
    [from, to],
  );
}

/** Gives a workspace another name, or another form of numbers and dates; its key, which stands in addresses, stays. */
export async function changeWorkspace(
  key: string,
  patch: Inputs['workspacePatch'],
  person: string,
): Promise<WorkspaceView> {
  const stored = await storedWorkspace(key);
  const before = { name: stored.name, form: stored.form ?? PLAIN_FORM };
  const name =
    patch.name === undefined ? before.name : checkName(await listWorkspaces(), patch.name, before.name);
  const form = patch.form ?? before.form;
  await inInstallation(async (transaction) => {
    await stored.update({ name, form: storedForm(form) }, { transaction });
    const note = { person, workspace: key, name };
    if (patch.name !== undefined)
      await noteEvent(transaction, { ...note, kind: 'renamed', data: { before: before.name } });
    if (!sameForm(form, before.form)) await noteEvent(transaction, { ...note, kind: 'form', data: { form } });
  });
  forgetWorkspace(key);
  return { key, name, form };
}

/** Removes a workspace with all that is in it, once its name has been typed to confirm it. */
export async function removeConfirmed(key: string, confirmation: string, person: string): Promise<void> {
  const { name } = await storedWorkspace(key);
  if (confirmation !== name) {
    const message = `To remove this workspace with all that is in it, type its name: expected “${name}”, found “${confirmation}”.`;
    throw new Refusal(409, 'workspace.confirm', message);
  }
  await removeWorkspace(key, person);
}

/** Removes a workspace with all that is in it. */
export async function removeWorkspace(key: string, person: string | null = null): Promise<void> {
  const { Workspace } = models();
  const workspace = await Workspace.findOne({ where: { key } });
  if (!workspace) return;
  await inInstallation(async (transaction) => {
    // The row first, as a program that starts meanwhile and brings its tables up to date.
    await Workspace.findByPk(workspace.id, { transaction, lock: transaction.LOCK.UPDATE });
    await database().query(`DROP SCHEMA IF EXISTS ${quote(workspace.schema)} CASCADE`, { transaction });
    await workspace.destroy({ transaction });
    await noteEvent(transaction, { person, kind: 'removed', workspace: key, name: workspace.name });
  });
  forgetWorkspace(key);
}

export async function listWorkspaces(): Promise<WorkspaceView[]> {
  const { Workspace } = models();
  const found = await Workspace.findAll({ order: [['name', 'ASC']] });
  return found.map(({ key, name, form }) => ({ key, name, form: form ?? PLAIN_FORM }));
}

async function storedWorkspace(key: string): Promise<StoredWorkspace> {
  const stored = await models().Workspace.findOne({ where: { key } });
  if (stored) return stored;
  throw new Refusal(404, 'workspace.unknown', `There is no workspace “${key}”. It may have been removed.`);
}

const LONGEST_NAME = 60;

function checkName(known: readonly WorkspaceName[], name: string, own: string | null): string {
  const trimmed = name.trim();
  const isGood = trimmed.length > 0 && trimmed.length <= LONGEST_NAME && !/\p{Cc}/u.test(trimmed);
  if (!isGood) {
    const message = `A workspace’s name has 1 to ${LONGEST_NAME} characters on one line; found “${trimmed.slice(0, LONGEST_NAME)}”. Enter another.`;
    throw new Refusal(422, 'workspace.name', message);
  }
  const isTaken = known.some((one) => one.name !== own && one.name.toLowerCase() === trimmed.toLowerCase());
  if (isTaken)
    throw new Refusal(
      409,
      'workspace.taken',
      `There is a workspace “${trimmed}” already. Choose another name.`,
    );
  return trimmed;
}

/** A key from a name (`Wrenfield trial` → `wrenfield-trial`), with a number after it where that is taken. */
function freeKey(known: readonly WorkspaceName[], name: string): string {
  const words = name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-+$/g, '');
  const base = words.slice(0, 34).replace(/-+$/, '') || 'workspace';
  const taken = new Set(known.map(({ key }) => key));
  for (let number = 1; ; number += 1) {
    const key = number === 1 ? base : `${base}-${number}`;
    if (!taken.has(key)) return key;
  }
}

function checkTimeZone(timeZone: string): string {
  if (isTimeZone(timeZone)) return new Intl.DateTimeFormat('en', { timeZone }).resolvedOptions().timeZone;
  throw new Refusal(422, 'workspace.timeZone', notATimeZone(timeZone));
}
