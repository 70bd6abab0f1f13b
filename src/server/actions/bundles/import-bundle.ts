import { firstIn, PLAIN_FORM } from '@/core/values';
import { v7 as newId } from 'uuid';
import { type EditProblem, readEdits, type Row, type WireEdit } from '@/core/engine';
import { type Bundle } from '@/core/intake';
import { type Model, typeIn } from '@/core/model';
import { buildPlan, type Plan } from '@/core/plan';
import type { WorkspaceView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { models } from '@/server/database/models';
import { dayIn } from '@/server/day';
import { refuse } from '@/server/refusal';
import { copyRows } from '@/server/store/sql/copy-in';
import { Slices } from '@/server/slices';
import { makeKeptColumns } from '@/server/store/sets/fill';
import { insertRun } from '@/server/store/write/run-row';
import { columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import { createTables } from '@/server/store/schema/tables';
import { holdRequiredLinks } from '@/server/store/schema/required-links';
import { inInstallation } from '@/server/store/session/transactions';
import { readWorkspace } from '@/server/store/session/workspace';
import { noteEvent } from '@/server/actions/workspaces/installation-events';
import { enter, newWorkspaceName } from '@/server/actions/workspaces/make-workspace';
import type { SavedListInput } from '@/server/forms/types';
import { fillAll } from '@/server/actions/rules/change-state';
import { firstValues } from '@/server/actions/imports/import-records';
import { definitionOf, liveOf, modelOf, readBundle } from './read-bundle';
import { insertFamilies, insertLists, insertProofs, insertRequests, insertRules } from './insert-parts';

export interface ImportedBundle extends WorkspaceView {
  readonly records: number;
}

/**
 * Makes a new workspace of a bundle, in one transaction: the model, the rules in their states with what they keep, lists, people, and
 * records if it has any. Its day is today's, whatever it was where the bundle comes from. Exported again it gives the same bundle otherwise.
 * Refused whole where something in it can't be. Who came into the installation with it stands in the installation's ledger.
 */
export async function importBundle(
  text: string,
  name: string | null,
  person: string,
): Promise<ImportedBundle> {
  const given = await readBundle(text);
  const { timeZone } = given.workspace;
  const workspace = { ...given.workspace, settledDay: dayIn(timeZone, new Date()) };
  const { bundle, missing } = await withOwnPeople({ ...given, workspace });
  const called = await newWorkspaceName(name ?? bundle.workspace.name);
  const model = modelOf(bundle);
  const { plan } = buildPlan(model, liveOf(bundle));
  const rows = await readRecords(model, plan, bundle);
  return inInstallation(async (transaction) => {
    await run(transaction, 'SET LOCAL statement_timeout = 0; SET LOCAL jit = off');
    await models().Person.bulkCreate([...missing], { transaction });
    const { schema } = await enter(transaction, called.key, called.name, bundle.people);
    const s = quote(schema);
    const stored = firstIn(
      await run<{ id: string }>(
        transaction,
        `INSERT INTO ${s}._model_version (definition) VALUES ($1) RETURNING id::text`,
        [JSON.stringify(definitionOf(bundle))],
      ),
    );
    const { settledDay, timeZone } = bundle.workspace;
    await run(
      transaction,
      `INSERT INTO ${s}._state (epoch, settled_day, time_zone, model) VALUES (1, $1, $2, $3)`,
      [...[settledDay, timeZone, stored.id]],
    );
    await insertRules(transaction, schema, bundle);
    await insertLists(transaction, schema, bundle.lists as readonly SavedListInput[]);
    await insertFamilies(transaction, schema, bundle.families);
    await insertProofs(transaction, schema, bundle.proofs, null);
    await insertRequests(transaction, schema, bundle.requests, null);
    const info = { kind: 'load', person: null, note: `Bundle “${bundle.workspace.name}”` } as const;
    const runId = await insertRun(transaction, schema, info);
    await createTables(transaction, schema, model, model.types, async () => {
      for (const { key } of model.types)
        await copyRows(transaction, { model, schema }, key, runId, rows.get(key) ?? []);
    });
    await holdRequiredLinks(transaction, schema);
    await insertMade(transaction, schema, bundle, runId);
    await checkLoops(transaction, model, schema);
    const stood = await readWorkspace(transaction, { id: 0, ...called, schema });
    for (const { key } of model.types) await run(transaction, `ANALYZE ${tableOf(schema, key)}`);
    await makeKeptColumns(transaction, stood, stood.plan.rules);
    // What stands in the bundle is how things are: nothing has changed yet for a rule to react to.
    await fillAll(transaction, stood, stood.plan.rules, runId);
    const data = {
      bundle: bundle.workspace.name,
      people: missing.map(({ id, name: called, email }) => ({ id, name: called, email })),
    };
    await noteEvent(transaction, {
      person,
      kind: 'imported',
      workspace: called.key,
      name: called.name,
      data,
    });
    return {
      ...called,
      form: PLAIN_FORM,
      records: [...rows.values()].reduce((sum, of) => sum + of.length, 0),
    };
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
async function readRecords(
  model: Model,
  plan: Plan,
  bundle: Bundle,
): Promise<Map<string, Pick<Row, 'id' | 'values'>[]>> {
  const people = new Set(bundle.people.map(({ id }) => id));
  const rows = new Map<string, Pick<Row, 'id' | 'values'>[]>();
  const ids = new Map<string, Set<string>>();
  const problems: EditProblem[] = [];
  const add = (index: number, problem: Omit<EditProblem, 'index'>) => {
    if (problems.length < MOST_PROBLEMS)
      problems.push({ ...problem, index, message: `Record ${index + 1}: ${problem.message}` });
  };
  const slices = new Slices();
  for (const [index, { type, id, values }] of (bundle.records ?? []).entries()) {
    await slices.rest();
    const edit: WireEdit = { kind: 'create', type, id, values };
    // A default is what people get who enter nothing; a bundle says what stands there.
    const empty = model
      .type(type)
      ?.fields.filter((field) => (field.default ?? null) !== null && !(field.key in values));
    const nulls = Object.fromEntries((empty ?? []).map(({ key }) => [key, null]));
    const full = { ...edit, values: { ...nulls, ...values } };
    const read = readEdits({ model, plan, edits: [full], people, newId, areNumbersGiven: true });
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
    const ofType = rows.get(type) ?? [];
    ofType.push({ id, values: { ...firstValues(plan, type), ...made.values } });
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
  checkMade(bundle, ids, add);
  if (problems.length > 0) throw refuse(422, problems);
  return rows;
}

/** What a rule made must be of what it makes, for a record of what it makes them for, and one only where it makes one for each. */
function checkMade(
  { rules, records = [] }: Bundle,
  ids: ReadonlyMap<string, ReadonlySet<string>>,
  add: (index: number, problem: Omit<EditProblem, 'index'>) => void,
): void {
  const makers = new Map(rules.map(({ id, live, definition }) => [id, live ?? definition]));
  const once = new Set<string>();
  for (const [index, { type, madeFor = [] }] of records.entries())
    for (const { rule, source } of madeFor) {
      const maker = makers.get(rule);
      const say = (message: string) => add(index, { code: 'bundle.made', message, place: 'madeFor' });
      if (maker?.kind !== 'create' || maker.makes !== type)
        say(`the bundle has no rule ${rule} that makes such records.`);
      else if (!ids.get(maker.type)?.has(source))
        say(`the bundle has no record ${source} for which it was made.`);
      else if (maker.each === 'once' && once.has(`${rule} ${source}`))
        say(`the rule makes one for each, and another was made for ${source}.`);
      once.add(`${rule} ${source}`);
    }
}

/** What rules made stays known as theirs: one of one for each is never made again. */
async function insertMade(
  transaction: Transaction,
  schema: string,
  { rules, records = [] }: Bundle,
  runId: string,
): Promise<void> {
  const makers = new Map(rules.map(({ id, live, definition }) => [id, live ?? definition]));
  const made = records.flatMap(({ id, madeFor = [] }) =>
    madeFor.flatMap(({ rule, source }) => {
      const maker = makers.get(rule);
      return maker?.kind === 'create'
        ? [{ rule, source, made: id, source_type: maker.type, is_once: maker.each === 'once' }]
        : [];
    }),
  );
  if (made.length === 0) return;
  const s = quote(schema);
  await run(
    transaction,
    `INSERT INTO ${s}._made (rule, version, source_type, source, made, is_once, wave, run)
      SELECT x.rule, COALESCE(r.live_version, r.latest_version), x.source_type, x.source, x.made, x.is_once, 1, $2
      FROM jsonb_to_recordset($1::jsonb) AS x(rule uuid, source_type text, source uuid, made uuid, is_once boolean)
        JOIN ${s}._rule r ON r.id = x.rule`,
    [JSON.stringify(made), runId],
  );
}

/** Refuses records that lie within themselves. */
async function checkLoops(transaction: Transaction, model: Model, schema: string): Promise<void> {
  for (const { key: type, name } of model.types)
    for (const { link, parent, field } of model.linksFrom(type)) {
      if (parent !== type) continue;
      const [table, column] = [tableOf(schema, type), columnOf(link)];
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
