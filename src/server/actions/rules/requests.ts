import type { RequestView } from '@/core/api';
import { parseValue, valueAt } from '@/core/values';
import { v7 as newId } from 'uuid';
import type { Transaction } from 'sequelize';
import {
  agreedTo,
  readRequests,
  requestGround,
  requestView,
  type StoredRequest,
  unknownRequest,
} from '@/server/queries/rules/requests';
import { Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { type By, checkedName, removeRow, saveBy } from '@/server/actions/named';
import type { Agreement, RequestInput, RequestPatch } from '@/server/forms/types';

/** Most requests of a workspace. */
const MOST_REQUESTS = 1_000;

/** Writes down what a colleague asked for. Refuses a name that another request has, a day that isn't one, and rules or proofs that aren't there. */
export function addRequest(by: By, input: RequestInput): Promise<RequestView> {
  return saveBy(by, async ({ workspace, transaction }) => {
    const others = await readRequests(transaction, workspace, null);
    if (others.length >= MOST_REQUESTS)
      throw new Refusal(
        409,
        'request.most',
        `There are ${MOST_REQUESTS} requests already. Remove some first.`,
      );
    const id = newId();
    const { askedBy = '', words = '', due = null, points = [], rules = [] } = input;
    await checkContent(transaction, workspace, { due, points, rules });
    const name = nameAmong(input.name, others);
    const { person } = by;
    await insertRequest(transaction, workspace.schema, {
      ...{ id, name, words, due, points, person },
      askedBy: askedBy.trim(),
    });
    await writeRequestRules(transaction, workspace.schema, id, rules);
    return requestView(transaction, workspace, id);
  });
}

/** Changes a request. Refuses what `addRequest` refuses, and one that somebody else has changed since it was read. */
export function changeRequest(by: By, id: string, patch: RequestPatch): Promise<RequestView> {
  return saveBy(by, async ({ workspace, transaction }) => {
    const s = quote(workspace.schema);
    await run(transaction, `SELECT 1 FROM ${s}._request WHERE id::text = $1 FOR NO KEY UPDATE`, [id]);
    const all = await readRequests(transaction, workspace, null);
    const stored = findIn(all, id);
    if (stored.version !== patch.version) {
      const message = `“${stored.name}” was changed by somebody else meanwhile. Reload, and change it then.`;
      throw new Refusal(409, 'request.version', message, [], {
        seen: patch.version,
        current: stored.version,
      });
    }
    const {
      askedBy = stored.asked_by,
      words = stored.words,
      due = stored.due,
      points = stored.points,
      rules = stored.rules,
    } = patch;
    await checkContent(transaction, workspace, { due, points: patch.points ?? [], rules });
    const others = all.filter((one) => one !== stored);
    const name = patch.name === undefined ? stored.name : nameAmong(patch.name, others);
    await run(
      transaction,
      `UPDATE ${s}._request SET name = $2, asked_by = $3, words = $4, due = $5, points = $6, version = version + 1 WHERE id = $1`,
      [id, name, askedBy.trim(), words, due, JSON.stringify(points)],
    );
    if (patch.rules) await writeRequestRules(transaction, workspace.schema, id, rules);
    return requestView(transaction, workspace, id);
  });
}

/** Removes a request. Its rules and proofs stay. */
export function removeRequest(by: By, id: string): Promise<void> {
  return saveBy(by, async ({ workspace, transaction }) => {
    if (!(await removeRow(transaction, workspace.schema, '_request', id))) throw unknownRequest();
  });
}

/** Writes down that somebody agrees to what a request came to: its points and its rules as they are written now. */
export function agreeTo(by: By, id: string, { name, note = '', version }: Agreement): Promise<RequestView> {
  return saveBy(by, async ({ workspace, transaction }) => {
    const stored = findIn(await readRequests(transaction, workspace, id), id);
    if (stored.version !== version) {
      const message = `“${stored.name}” was changed meanwhile, so nobody can have agreed to it as it is now. Reload, and look at it again.`;
      throw new Refusal(409, 'request.version', message, [], { seen: version, current: stored.version });
    }
    const who = name.trim();
    if (who === '')
      throw new Refusal(422, 'agreement.name', 'An agreement needs the name of who agrees. Enter it.');
    const of = agreedTo(stored, await requestGround(transaction, workspace));
    await run(
      transaction,
      `INSERT INTO ${quote(workspace.schema)}._agreement (id, request, name, note, agreed_to, person) VALUES ($1, $2, $3, $4, $5, $6)`,
      [newId(), id, who, note, JSON.stringify(of), by.person],
    );
    return requestView(transaction, workspace, id);
  });
}

const findIn = (all: readonly StoredRequest[], id: string): StoredRequest => {
  const stored = all.find((one) => one.id === id);
  if (!stored) throw unknownRequest();
  return stored;
};

const nameAmong = (name: string, others: readonly StoredRequest[]): string =>
  checkedName(
    'request',
    name,
    others.map((one) => one.name.toLowerCase()),
  );

type Content = Required<Pick<RequestInput, 'points' | 'rules'>> & { readonly due: string | null };

async function checkContent(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { due, points, rules }: Content,
): Promise<void> {
  if (due !== null && !parseValue({ kind: 'date' }, due).ok)
    throw new Refusal(
      422,
      'request.due',
      `${due} is no day of the calendar. Give one as year-month-day, or leave it out.`,
    );
  const { rules: known } = await requestGround(transaction, workspace);
  const lost = rules.find((rule) => !known.has(rule));
  if (lost !== undefined)
    throw new Refusal(
      422,
      'request.rule',
      'One of the rules isn’t there any more. It may have been removed; reload.',
    );
  const proofs = new Set(rules.flatMap((rule) => valueAt(known, rule).proofs.map(({ id }) => id)));
  const stray = points.flatMap((point) => point.proofs).find((proof) => !proofs.has(proof));
  if (stray !== undefined)
    throw new Refusal(
      422,
      'request.proof',
      `The proof ${stray} is of none of the request’s rules, or was removed. Reload, and choose another.`,
    );
}

interface Inserted extends Required<Omit<RequestInput, 'rules'>> {
  readonly id: string;
  readonly person: string | null;
}

export const insertRequest = (
  transaction: Transaction,
  schema: string,
  { id, name, askedBy, words, due, points, person }: Inserted,
) =>
  run(
    transaction,
    `INSERT INTO ${quote(schema)}._request (id, name, asked_by, words, due, points, person) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
    [id, name, askedBy, words, due, JSON.stringify(points), person],
  );

/** Writes which rules a request has, in their order, in place of those that it had. */
export async function writeRequestRules(
  transaction: Transaction,
  schema: string,
  request: string,
  rules: readonly string[],
): Promise<void> {
  const s = quote(schema);
  await run(transaction, `DELETE FROM ${s}._request_rule WHERE request = $1`, [request]);
  await run(
    transaction,
    `INSERT INTO ${s}._request_rule (request, rule, place)
      SELECT $1, rule, min(place) FROM unnest($2::uuid[]) WITH ORDINALITY AS given (rule, place) GROUP BY rule`,
    [request, [...rules]],
  );
}
