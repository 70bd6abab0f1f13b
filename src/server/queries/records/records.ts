import type { Row } from '@/core/engine';
import { type Model, typeIn } from '@/core/model';
import { isSlower } from '@/core/rules';
import { certain, parseValue } from '@/core/values';
import { recordToWire } from '@/core/verify';
import { type RecordView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { cacheSeen } from '@/server/store/session/row-cache';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import { readSeen } from '@/server/store/run/lock-rows';
import { readRows } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { claimedOn } from './claimed';
import { claimedByMakers, madeByOf, makersOf } from './makers';
import { instantSql, personName, RUN_COLUMNS, type StoredRun } from '@/server/queries/run-head';
import { readTitles, Wanted } from '@/server/store/session/titles';

export function checkType(model: Model, type: string): void {
  if (model.type(type)) return;
  const known = model.types.map(({ key }) => key).join(', ');
  throw new Refusal(404, 'type.unknown', `There is no type “${type}”. The types are ${known}.`);
}

/** What stands for a record that somebody doesn't see. */
const UNSEEN = 'a record that you may not see';

/** Titles of what records link to, and names of the people in them. */
export async function namesFor(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rows: readonly Row[],
): Promise<Record<string, string>> {
  const names: Record<string, string> = {};
  const wanted = new Wanted();
  for (const row of rows) {
    for (const { key, type } of typeIn(workspace.model, row.type).fields) {
      const id = row.values[key];
      if (type.kind === 'person' && typeof id === 'string') names[id] = certain(personName(workspace, id));
      if (type.kind === 'link') wanted.add(type.target, id);
    }
  }
  const titles = await readTitles(transaction, workspace, wanted);
  if (workspace.sight)
    for (const id of [...wanted.ids.values()].flatMap((ids) => [...ids])) titles[id] ??= UNSEEN;
  return { ...names, ...titles };
}

/** One record; refuses one in the bin unless it is asked for. */
export async function findRow(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  id: string,
  isBinAllowed = false,
): Promise<Row> {
  const [row] = isIdOf(workspace, type, id) ? await readRows(transaction, workspace, type, [id]) : [];
  return standing(workspace, type, row, isBinAllowed);
}

function isIdOf({ model }: LoadedWorkspace, type: string, id: string): boolean {
  checkType(model, type);
  return parseValue({ kind: 'link', target: type }, id).ok;
}

function standing(
  { model }: LoadedWorkspace,
  type: string,
  row: Row | undefined,
  isBinAllowed: boolean,
): Row {
  const { name } = typeIn(model, type);
  if (!row) {
    const message = `There is no such ${name}. It may be of another type, or the address is wrong.`;
    throw new Refusal(404, 'record.unknown', message);
  }
  if (row.deleted && !isBinAllowed)
    throw new Refusal(404, 'record.deleted', `This ${name} has been deleted. It is in the bin.`);
  return row;
}

/** The same of what somebody looks at, which they may well edit next: it is remembered. The transaction has written nothing. */
async function lookAt(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  id: string,
  isBinAllowed: boolean,
): Promise<Row> {
  const found = isIdOf(workspace, type, id)
    ? await readSeen(transaction, workspace, { type, ids: [id] })
    : [];
  cacheSeen(workspace, found);
  return standing(workspace, type, found[0]?.row, isBinAllowed);
}

/** A record with what it names; of one in the bin also who deleted it, when, and with what it went. */
export const getRecord = (
  workspace: LoadedWorkspace,
  type: string,
  id: string,
  isBinAllowed = false,
): Promise<RecordView> =>
  database().transaction(async (transaction) => {
    if (workspace.sight)
      return partOf(transaction, workspace, await findRow(transaction, workspace, type, id, isBinAllowed));
    const row = await lookAt(transaction, workspace, type, id, isBinAllowed);
    return {
      record: recordToWire(workspace.model, row),
      names: await namesFor(transaction, workspace, [row]),
      path: await pathOf(transaction, workspace, row),
      asOf: row.deleted ? {} : ((await asOfIn(transaction, workspace, row.type, [row.id]))[row.id] ?? {}),
      claimed: row.deleted ? [] : await claimedIn(transaction, workspace, row),
      makers: row.deleted ? [] : await makersOf(transaction, workspace, row),
      madeBy: await madeByOf(transaction, workspace, row),
      deletion: row.deleted ? await deletionOf(transaction, workspace, row) : null,
    };
  });

/** A record as somebody knows it who sees only a part: not by which rules it is as it is. */
const partOf = async (
  transaction: Transaction,
  workspace: LoadedWorkspace,
  row: Row,
): Promise<RecordView> => ({
  record: recordToWire(workspace.model, row),
  names: await namesFor(transaction, workspace, [row]),
  path: await pathOf(transaction, workspace, row),
  ...{ asOf: {}, claimed: [], makers: [], madeBy: [], deletion: null },
});

/**
 * A record that somebody has just saved. Where it is by then none of those that they see, what they know of its type is told this once: they entered it
 * themselves.
 */
export async function getSaved(
  workspace: LoadedWorkspace,
  whole: LoadedWorkspace,
  type: string,
  id: string,
): Promise<RecordView> {
  try {
    return await getRecord(workspace, type, id);
  } catch (error) {
    if (!workspace.sight || !(error instanceof Refusal) || error.code !== 'record.unknown') throw error;
    return database().transaction(async (transaction) => {
      const row = await findRow(transaction, whole, type, id);
      return { ...(await partOf(transaction, workspace, row)), path: [] };
    });
  }
}

/** Refuses a record that somebody doesn't see, as one that isn't there. */
export const checkSeen = (workspace: LoadedWorkspace, type: string, id: string): Promise<unknown> =>
  database().transaction((transaction) => findRow(transaction, workspace, type, id, true));

/** Fields that live rules keep in step on the record, with its parents or with what it was made for. */
async function claimedIn(transaction: Transaction, workspace: LoadedWorkspace, row: Row): Promise<string[]> {
  const [one, other] = [
    await claimedOn(transaction, workspace, [row]),
    await claimedByMakers(transaction, workspace, [row]),
  ];
  return [...new Set([...(one.get(row.id) ?? []), ...(other.get(row.id) ?? [])])];
}

/** By record: fields whose values wait for the pace of their rule, with the moment of the first run that left them behind. */
export async function asOfIn(
  transaction: Transaction,
  { schema, plan }: LoadedWorkspace,
  type: string,
  ids: readonly string[],
): Promise<Record<string, Record<string, string>>> {
  const slower = plan.rules.filter((rule) => rule.writes.type === type && isSlower(rule));
  if (slower.length === 0 || ids.length === 0) return {};
  const s = quote(schema);
  const found = await run<{ rule: string; record: string; at: string }>(
    transaction,
    `SELECT l.rule::text, l.record::text, ${instantSql('r.at')} AS at FROM (
        SELECT w.rule, t.record, min(w.run) AS run FROM ${s}._later w
          JOIN unnest($2::uuid[]) t(record) ON w.record IS NULL OR w.record = t.record
          WHERE w.rule = ANY($1::uuid[]) GROUP BY w.rule, t.record
      ) l JOIN ${s}._run r ON r.id = l.run`,
    [slower.map((rule) => rule.id), ids],
  );
  const asOf: Record<string, Record<string, string>> = {};
  for (const { rule, record, at } of found)
    for (const { id, writes } of slower)
      if (id === rule) asOf[record] = { ...asOf[record], [writes.field]: at };
  return asOf;
}

/** Most steps that are gone up. */
const MOST_STEPS = 60;

/** The way up from a record: within its own type to the top, and from there over the first link that names something. */
async function pathOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  row: Row,
): Promise<RecordView['path']> {
  const path: RecordView['path'][number][] = [];
  const seen = new Set([row.id]);
  for (let at: Row | undefined = row; at && path.length < MOST_STEPS;) {
    const current: Row = at;
    const links = workspace.model.linksFrom(current.type);
    const named = [...links.filter(({ parent }) => parent === current.type), ...links];
    const link = named.find(({ link: key }) => typeof current.values[key] === 'string');
    const id = link ? (current.values[link.link] as string) : '';
    if (!link || seen.has(id)) break;
    seen.add(id);
    [at] = await readRows(transaction, workspace, link.parent, [id]);
    if (!at || at.deleted) break;
    const title = at.values[typeIn(workspace.model, at.type).title];
    path.unshift({ type: at.type, id: at.id, title: String(title) });
  }
  return path;
}

async function deletionOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { type, id }: Row,
): Promise<NonNullable<RecordView['deletion']>> {
  type Found = StoredRun & { deleted_with: string | null };
  const [found] = (await run<Found>(
    transaction,
    `SELECT ${RUN_COLUMNS}, t.deleted_with::text
      FROM ${tableOf(workspace.schema, type)} t JOIN ${quote(workspace.schema)}._run r ON r.id = t.deleted_run WHERE t.id = $1`,
    [id],
  )) as [Found];
  const { run: number, at, person, deleted_with: root } = found;
  return {
    run: number,
    at,
    person: personName(workspace, person),
    with: root ? await rootOf(transaction, workspace, root) : null,
  };
}

/** The record with whose deletion another went: its type isn't kept, so each that may take others along is asked. */
async function rootOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string,
): Promise<{ type: string; id: string; title: string } | null> {
  for (const { key } of workspace.model.types) {
    const wanted = new Wanted();
    wanted.add(key, id);
    const title = (await readTitles(transaction, workspace, wanted))[id];
    if (title !== undefined) return { type: key, id, title };
  }
  return null;
}
