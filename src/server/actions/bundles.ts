import { type EditProblem, readEdits, type Row, type WireEdit } from '@/core/engine';
import { checkSelections } from '@/core/expression';
import {
  type Bundle,
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  type BundleHead,
  type BundleRecord,
  bundleText,
  compareBundles,
  type Difference,
  mergeOf,
  openBundle,
} from '@/core/intake';
import { checkModel, type Model, readModel, typeIn } from '@/core/model';
import { buildPlan, type Plan } from '@/core/plan';
import type { RuleDefinition, RuleState } from '@/core/rules';
import { toWire } from '@/core/values';
import { type ModelRehearsal, planWithDrafts, type WorkspaceView } from '@/core/verify';
import { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { database } from '../database/connection';
import { models } from '../database/models';
import { dayIn } from '../day';
import { refuse } from '../refusal';
import { copyRows } from '../store/copy';
import { makeKeptColumns } from '../store/fill';
import { insertRun } from '../store/run-writer';
import { quote, run, tableOf } from '../store/sql';
import { createTables } from '../store/tables';
import { inChange, inSnapshot } from '../store/transactions';
import { rowColumns, rowFrom } from '../store/values';
import { type LoadedWorkspace, loadWorkspace, readWorkspace } from '../store/workspace';
import { applyIn, rehearseIn } from './change-model';
import { readInput } from './input';
import { enter, newWorkspaceName } from './make-workspace';
import { checkPerson } from './save-edits';
import { listProblems, readLists, type SavedListInput } from './saved-lists';
import { fillAll } from './write-rules';

/** Most bytes of a bundle that is read. */
export const MOST_BUNDLE = 64_000_000;
/** Records are read from the database in pages of this many. */
const PAGE = 2_000;

const snapshot = { isolationLevel: Transaction.ISOLATION_LEVELS.REPEATABLE_READ };

/** A workspace as a bundle's text, piece by piece, as it stands at one moment; with its records if they are wanted. */
export async function* exportBundle(key: string, withRecords: boolean): AsyncGenerator<string> {
  const known = await loadWorkspace(key);
  const transaction = await database().transaction(snapshot);
  try {
    const workspace = await readWorkspace(transaction, known);
    const head = await headOf(transaction, workspace);
    yield* bundleText(head, withRecords ? recordsOf(transaction, workspace) : null);
  } finally {
    await transaction.rollback();
  }
}

async function headOf(transaction: Transaction, workspace: LoadedWorkspace): Promise<BundleHead> {
  const { model, name, timeZone, settledDay, people } = workspace;
  const persons = await models().Person.findAll({
    where: { id: [...people.keys()] },
    order: [['id', 'ASC']],
  });
  const lists = await readLists(transaction, workspace);
  return {
    ...{ format: BUNDLE_FORMAT, version: BUNDLE_VERSION, workspace: { name, timeZone, settledDay } },
    people: persons.map(({ id, name: called, email, role }) => ({ id, name: called, email, role })),
    ...{ optionLists: model.lists ?? [], types: model.types, selections: model.selections ?? [] },
    lists: lists.map((list) => ({ name: list.name, definition: list.definition })),
    rules: await rulesOf(transaction, workspace),
  };
}

interface StoredRule {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly state: RuleState;
  readonly definition: RuleDefinition;
  readonly live: RuleDefinition | null;
}

async function rulesOf(transaction: Transaction, { schema }: LoadedWorkspace) {
  const s = quote(schema);
  const found = await run<StoredRule>(
    transaction,
    `SELECT r.id::text, r.name, r.note, r.state, v.definition,
        CASE WHEN r.live_version <> r.latest_version THEN l.definition END AS live
      FROM ${s}.rule r JOIN ${s}.rule_version v ON v.id = r.latest_version
      LEFT JOIN ${s}.rule_version l ON l.id = r.live_version ORDER BY r.id`,
  );
  return found.map(({ live, ...rule }) => ({ ...rule, ...(live ? { live } : {}) }));
}

/** What is there, by type and id; without what live rules keep, which they give again. */
async function* recordsOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
): AsyncGenerator<BundleRecord> {
  const { model, plan, schema } = workspace;
  for (const { key: type, fields } of model.types) {
    const entered = fields.filter(({ key }) => !plan.keeper({ type, field: key }));
    for (let after: string | null = null; ;) {
      const found: Record<string, unknown>[] = await run(
        transaction,
        `SELECT ${rowColumns(workspace, type, 't')} FROM ${tableOf(schema, type)} t
          WHERE t.deleted_run IS NULL AND ($1::uuid IS NULL OR t.id > $1::uuid) ORDER BY t.id LIMIT ${PAGE}`,
        [after],
      );
      for (const one of found) {
        const row: Row = rowFrom(workspace, type, one);
        const values = entered.flatMap((field) => {
          const value = row.values[field.key] ?? null;
          return value === null ? [] : [[field.key, toWire(field.type, value)] as const];
        });
        yield { type, id: row.id, values: Object.fromEntries(values) };
      }
      if (found.length < PAGE) break;
      after = found.at(-1)!.id as string;
    }
  }
}

/** Reads a bundle: its form, then its model, selections, rules and lists. Refuses it whole with everything that is wrong. */
export function readBundle(text: string): Bundle {
  const opened = openBundle(text);
  if (!opened.ok) throw refuse(422, [opened.problem]);
  const bundle = readInput('bundle', opened.value);
  const own = checkModel(definitionOf(bundle));
  if (own.length > 0) throw refuse(422, own);
  const model = modelOf(bundle);
  const problems = [
    ...checkSelections(model),
    ...planProblems(model, bundle),
    ...bundle.lists.flatMap(({ name, definition }) =>
      listProblems(model, definition as SavedListInput['definition']).map((problem) => ({
        ...{ ...problem, place: `list ${name}` },
        message: `The list “${name}”: ${problem.message}`,
      })),
    ),
  ];
  if (problems.length > 0) throw refuse(422, problems);
  return bundle;
}

const definitionOf = ({ types, optionLists: lists, selections }: BundleHead) => ({
  types,
  lists,
  selections,
});

const modelOf = (bundle: BundleHead): Model => readModel(definitionOf(bundle), bundle.workspace.settledDay);

const liveOf = (bundle: BundleHead) =>
  bundle.rules
    .filter(({ state }) => state === 'live')
    .map(({ id, name, definition, live }) => ({ id, version: id, name, definition: live ?? definition }));

const planProblems = (model: Model, bundle: BundleHead) =>
  buildPlan(model, liveOf(bundle)).problems.map((problem) => {
    const name = bundle.rules.find(({ id }) => id === problem.rule)?.name ?? problem.rule;
    return { ...problem, message: `The rule “${name}”: ${problem.message}` };
  });

export interface ImportedBundle extends WorkspaceView {
  readonly records: number;
}

/**
 * Makes a new workspace of a bundle, in one transaction: the model, the rules in their states with what they keep, lists, people, and
 * records if it has any. Exported again it gives the same bundle. Refused whole where something in it can't be.
 */
export async function importBundle(text: string, name: string | null): Promise<ImportedBundle> {
  const given = readBundle(text);
  const { bundle, missing } = await withOwnPeople(given);
  const called = await newWorkspaceName(name ?? bundle.workspace.name);
  const model = modelOf(bundle);
  const { plan } = buildPlan(model, liveOf(bundle));
  const rows = readRecords(model, plan, bundle);
  return database().transaction(async (transaction) => {
    await run(transaction, 'SET LOCAL statement_timeout = 0; SET LOCAL jit = off');
    await models().Person.bulkCreate([...missing], { transaction });
    const { schema } = await enter(transaction, called.key, called.name, bundle.people);
    const s = quote(schema);
    const [stored] = await run<{ id: string }>(
      transaction,
      `INSERT INTO ${s}.model_version (definition) VALUES ($1) RETURNING id::text`,
      [JSON.stringify(definitionOf(bundle))],
    );
    const { settledDay, timeZone } = bundle.workspace;
    await run(
      transaction,
      `INSERT INTO ${s}.state (epoch, settled_day, time_zone, model) VALUES (1, $1, $2, $3)`,
      [...[settledDay, timeZone, stored!.id]],
    );
    await insertRules(transaction, schema, bundle);
    await insertLists(transaction, schema, bundle.lists as readonly SavedListInput[]);
    const info = { kind: 'load', person: null, note: `Bundle “${bundle.workspace.name}”` } as const;
    const runId = await insertRun(transaction, schema, info);
    await createTables(transaction, schema, model, model.types, async () => {
      for (const { key } of model.types)
        await copyRows(transaction, { model, schema }, key, runId, rows.get(key) ?? []);
    });
    await checkLoops(transaction, model, schema);
    const workspace = await readWorkspace(transaction, { id: 0, ...called, schema });
    for (const { key } of model.types) await run(transaction, `ANALYZE ${tableOf(schema, key)}`);
    await makeKeptColumns(transaction, workspace, workspace.plan.rules);
    await fillAll(transaction, workspace, workspace.plan.rules, runId);
    return { ...called, records: [...rows.values()].reduce((sum, of) => sum + of.length, 0) };
  });
}

/** People are known by id, or by e-mail with another id here: then the bundle's id gives way to it wherever it stands. */
async function withOwnPeople(given: Bundle): Promise<{ bundle: Bundle; missing: Bundle['people'] }> {
  const known = await models().Person.findAll();
  let text: string | null = null;
  const missing = given.people.filter((person) => {
    if (known.some(({ id }) => id === person.id)) return false;
    const own = known.find(({ email }) => email.toLowerCase() === person.email.toLowerCase());
    if (!own) return true;
    text = (text ?? JSON.stringify(given)).replaceAll(person.id, own.id);
    return false;
  });
  return { bundle: text === null ? given : (JSON.parse(text) as Bundle), missing };
}

const MOST_PROBLEMS = 50;

/** Records as rows, checked as when people enter them; links must name records of the bundle. */
function readRecords(model: Model, plan: Plan, bundle: Bundle): Map<string, Pick<Row, 'id' | 'values'>[]> {
  const people = new Set(bundle.people.map(({ id }) => id));
  const rows = new Map<string, Pick<Row, 'id' | 'values'>[]>();
  const ids = new Map<string, Set<string>>();
  const problems: EditProblem[] = [];
  const add = (index: number, problem: Omit<EditProblem, 'index'>) => {
    if (problems.length < MOST_PROBLEMS)
      problems.push({ ...problem, index, message: `Record ${index + 1}: ${problem.message}` });
  };
  for (const [index, { type, id, values }] of (bundle.records ?? []).entries()) {
    const edit: WireEdit = { kind: 'create', type, id, values };
    // A default is what people get who enter nothing; a bundle says what stands there.
    const empty = model
      .type(type)
      ?.fields.filter((field) => (field.default ?? null) !== null && !(field.key in values));
    const nulls = Object.fromEntries((empty ?? []).map(({ key }) => [key, null]));
    const full = { ...edit, values: { ...nulls, ...values } };
    const read = readEdits({ model, plan, edits: [full], people, newId });
    if (!read.ok) {
      read.problems.forEach((problem) => add(index, problem));
      continue;
    }
    const [made] = read.edits;
    if (made?.kind !== 'create') continue;
    const known = ids.get(type) ?? new Set();
    if (known.has(id))
      add(index, { code: 'bundle.twice', message: `The id ${id} stands there twice.`, place: 'id' });
    ids.set(type, known.add(id));
    const first = plan.rules
      .filter(({ writes }) => writes.type === type)
      .map(({ writes, whenNone }) => [writes.field, whenNone] as const);
    const ofType = rows.get(type) ?? [];
    ofType.push({ id, values: { ...Object.fromEntries(first), ...made.values } });
    rows.set(type, ofType);
  }
  for (const [index, { type, values }] of (bundle.records ?? []).entries())
    for (const { link, parent, field } of model.linksFrom(type)) {
      const id = values[link];
      if (typeof id === 'string' && !ids.get(parent)?.has(id))
        add(index, {
          ...{ code: 'link.gone', place: link },
          message: `${field.name}: the bundle has no ${typeIn(model, parent).name} with the id ${id}.`,
        });
    }
  if (problems.length > 0) throw refuse(422, problems);
  return rows;
}

/** Refuses records that lie within themselves. */
async function checkLoops(transaction: Transaction, model: Model, schema: string): Promise<void> {
  for (const { key: type, name } of model.types)
    for (const { link, parent, field } of model.linksFrom(type)) {
      if (parent !== type) continue;
      const [table, column] = [
        tableOf(schema, type),
        quote(link.replace(/[A-Z]/g, (one) => `_${one.toLowerCase()}`)),
      ];
      const [loop] = await run<{ id: string }>(
        transaction,
        `WITH RECURSIVE up AS (
            SELECT id AS start, ${column} AS at, ARRAY[id] AS path FROM ${table} WHERE ${column} IS NOT NULL
            UNION ALL SELECT u.start, t.${column}, u.path || u.at FROM up u JOIN ${table} t ON t.id = u.at
              WHERE u.at IS NOT NULL AND NOT u.at = ANY(u.path)
          ) SELECT start::text AS id FROM up WHERE at = start LIMIT 1`,
      );
      if (loop) {
        const message = `${field.name}: the ${name} ${loop.id} lies within itself. Correct the bundle.`;
        throw refuse(422, [{ code: 'link.loop', place: link, message }]);
      }
    }
}

async function insertRules(transaction: Transaction, schema: string, { rules }: Bundle): Promise<void> {
  for (const { id, name, note, state, definition, live } of rules) {
    const latest = await insertRule(transaction, schema, { id, name, note, definition, person: null });
    if (state === 'draft') continue;
    const version = live ? newId() : latest;
    if (live)
      await insertVersion(transaction, schema, {
        id: version,
        rule: id,
        number: 0,
        definition: live,
        person: null,
      });
    await run(transaction, `UPDATE ${quote(schema)}.rule SET state = $2, live_version = $3 WHERE id = $1`, [
      id,
      state,
      state === 'live' ? version : null,
    ]);
  }
}

interface InsertedRule {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly definition: RuleDefinition;
  readonly person: string | null;
}

/** A rule as a draft; answers the id of its version. */
async function insertRule(transaction: Transaction, schema: string, rule: InsertedRule): Promise<string> {
  const version = newId();
  await run(
    transaction,
    `INSERT INTO ${quote(schema)}.rule (id, name, note, state, latest_version) VALUES ($1, $2, $3, 'draft', $4)`,
    [rule.id, rule.name, rule.note, version],
  );
  const { definition, person } = rule;
  await insertVersion(transaction, schema, { id: version, rule: rule.id, number: 1, definition, person });
  return version;
}

interface InsertedVersion {
  readonly id: string;
  readonly rule: string;
  readonly number: number;
  readonly definition: RuleDefinition;
  readonly person: string | null;
}

const insertVersion = (transaction: Transaction, schema: string, version: InsertedVersion) =>
  run(
    transaction,
    `INSERT INTO ${quote(schema)}.rule_version (id, rule, number, definition, person) VALUES ($1, $2, $3, $4, $5)`,
    [version.id, version.rule, version.number, JSON.stringify(version.definition), version.person],
  );

async function insertLists(
  transaction: Transaction,
  schema: string,
  lists: readonly SavedListInput[],
): Promise<void> {
  for (const { name, definition } of lists)
    await run(
      transaction,
      `INSERT INTO ${quote(schema)}.saved_list (id, name, definition) VALUES ($1, $2, $3)`,
      [...[newId(), name, JSON.stringify(definition)]],
    );
}

export interface BundleComparison {
  /** The workspace that the bundle was made from. */
  readonly from: string;
  readonly differences: readonly Difference[];
  /** How many records the bundle has; they aren't compared. */
  readonly records: number;
  /** The version of the model that was compared. */
  readonly version: string;
}

/** What a workspace and a bundle don't have alike. */
export async function compareBundle(key: string, text: string): Promise<BundleComparison> {
  const bundle = readBundle(text);
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await readWorkspace(transaction, known);
    const head = await headOf(transaction, workspace);
    return {
      ...{ from: bundle.workspace.name, differences: compareBundles(head, bundle) },
      ...{ records: bundle.records?.length ?? 0, version: workspace.modelVersion },
    };
  });
}

export interface MergeInput {
  readonly bundle: string;
  /** Ids of the differences that are taken over. */
  readonly chosen: readonly string[];
}

/** What taking differences over would do to the model, to what is stored and to the rules; changes nothing. */
export async function rehearseMerge(
  key: string,
  { bundle: text, chosen }: MergeInput,
): Promise<ModelRehearsal> {
  const bundle = readBundle(text);
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await readWorkspace(transaction, known);
    const merge = mergeOf(await headOf(transaction, workspace), bundle, new Set(chosen));
    return rehearseIn(transaction, workspace, merge.changes);
  });
}

export interface Merged {
  /** Rules that came, as drafts. */
  readonly rules: number;
  readonly lists: number;
  /** The run that changed the model; `null` where it stays as it is. */
  readonly run: string | null;
}

/** Takes differences over in one transaction: the model with what it converts, rules as drafts, and lists. */
export function mergeBundle(
  by: { readonly workspace: string; readonly person: string },
  { bundle: text, chosen, version }: MergeInput & { readonly version: string },
): Promise<Merged> {
  const bundle = readBundle(text);
  return inChange(by.workspace, async (attempt) => {
    const { workspace, transaction } = attempt;
    checkPerson(workspace, by.person);
    const merge = mergeOf(await headOf(transaction, workspace), bundle, new Set(chosen));
    const note = `Bundle “${bundle.workspace.name}”`;
    const changed =
      merge.changes.length > 0
        ? await applyIn(attempt, { ...by, changes: merge.changes, version, note })
        : null;
    const fresh = await readWorkspace(transaction, workspace);
    for (const { rule, isNew } of merge.rules) await mergeRule(transaction, fresh, rule, isNew, by.person);
    const s = quote(workspace.schema);
    for (const name of [...merge.goneLists, ...merge.lists.map((list) => list.name.toLowerCase())])
      await run(transaction, `DELETE FROM ${s}.saved_list WHERE lower(name) = $1`, [name]);
    const lists = merge.lists as readonly SavedListInput[];
    const problems = lists.flatMap(({ definition }) => listProblems(fresh.model, definition));
    if (problems.length > 0) throw refuse(409, problems);
    await insertLists(transaction, workspace.schema, lists);
    return { rules: merge.rules.length, lists: lists.length, run: changed?.run ?? null };
  });
}

async function mergeRule(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: Bundle['rules'][number],
  isNew: boolean,
  person: string,
): Promise<void> {
  const { plan, problems } = planWithDrafts(
    workspace.model,
    [],
    [{ id: rule.id, version: rule.id, name: rule.name, definition: rule.definition }],
  );
  if (plan.rules.length === 0)
    throw refuse(
      409,
      problems.map((problem) => ({
        ...{
          ...problem,
          message: `The rule “${rule.name}” can’t stand here: ${problem.message} Take over what it needs too.`,
        },
      })),
    );
  const { schema } = workspace;
  if (isNew) {
    await insertRule(transaction, schema, { ...rule, person });
    return;
  }
  const version = newId();
  const [last] = await run<{ number: number }>(
    transaction,
    `SELECT max(number) AS number FROM ${quote(schema)}.rule_version WHERE rule = $1`,
    [rule.id],
  );
  const { id, definition } = rule;
  await insertVersion(transaction, schema, {
    id: version,
    rule: id,
    number: last!.number + 1,
    definition,
    person,
  });
  await run(
    transaction,
    `UPDATE ${quote(schema)}.rule SET name = $2, note = $3, latest_version = $4, version = version + 1 WHERE id = $1`,
    [id, rule.name, rule.note, version],
  );
}

/** A file's name for a bundle: `oikon-wrenfield-2026-03-14.json`. */
export const bundleName = ({ key, timeZone }: LoadedWorkspace, now: Date): string =>
  `oikon-${key}-${dayIn(timeZone, now)}.json`;
