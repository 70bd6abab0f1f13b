import type { MadeFor, Row } from '@/core/engine';
import {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  type BundleHead,
  type BundleProof,
  type BundleRecord,
  bundleText,
} from '@/core/intake';
import type { Pilot, RuleDefinition, RuleState } from '@/core/rules';
import { toWire } from '@/core/values';
import { Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { models } from '@/server/database/models';
import { dayIn } from '@/server/day';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import { rowColumns, rowFrom } from '@/server/store/sql/columns';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { readRequests } from '@/server/queries/rules/requests';
import { readLists } from '@/server/actions/records/saved-lists';

/** Records are read from the database in pages of this many. */
const PAGE = 2_000;

const snapshot = { isolationLevel: Transaction.ISOLATION_LEVELS.REPEATABLE_READ };

/** A workspace as a bundle's text, piece by piece, as it stands at one moment; with its records if they are wanted. */
export async function* exportBundle(key: string, withRecords: boolean): AsyncGenerator<string> {
  const known = await loadWorkspace(key);
  const transaction = await database().transaction(snapshot);
  try {
    const workspace = await currentWorkspace(transaction, known);
    const head = await headOf(transaction, workspace);
    yield* bundleText(head, withRecords ? recordsOf(transaction, workspace) : null);
  } finally {
    await transaction.rollback();
  }
}

export async function headOf(transaction: Transaction, workspace: LoadedWorkspace): Promise<BundleHead> {
  const { model, name, timeZone, settledDay, people } = workspace;
  const persons = await models().Person.findAll({
    where: { id: [...people.keys()] },
    order: [['id', 'ASC']],
  });
  const lists = await readLists(transaction, workspace);
  const proofs = await run<BundleProof>(
    transaction,
    `SELECT id::text, rule::text, name, content->'family' AS family, content->>'day' AS day, content->'people' AS people,
        content->'runs' AS runs, COALESCE(content->'settings', '[]') AS settings, expectations
      FROM ${quote(workspace.schema)}._proof ORDER BY rule, lower(name), id`,
  );
  return {
    ...{ format: BUNDLE_FORMAT, version: BUNDLE_VERSION, workspace: { name, timeZone, settledDay } },
    people: persons.map(({ id, name: called, email, role }) => ({ id, name: called, email, role })),
    ...{ optionLists: model.lists ?? [], types: model.types, selections: model.selections ?? [] },
    lists: lists.map((list) => ({ name: list.name, definition: list.definition })),
    rules: await rulesOf(transaction, workspace),
    families: await run(
      transaction,
      `SELECT name, note, data FROM ${quote(workspace.schema)}._sample_family ORDER BY lower(name), id`,
    ),
    proofs,
    requests: requestsOf(await readRequests(transaction, workspace, null), proofs),
  };
}

function requestsOf(
  stored: Awaited<ReturnType<typeof readRequests>>,
  proofs: readonly BundleProof[],
): BundleHead['requests'] {
  const known = new Map(proofs.map((proof) => [proof.id, proof]));
  const byName = [...stored].sort((a, b) => (a.name.toLowerCase() < b.name.toLowerCase() ? -1 : 1));
  return byName.map(({ name, asked_by: askedBy, words, due, points, rules }) => ({
    ...{ name, askedBy, words, due, rules },
    points: points.map(({ text, proofs: own }) => ({
      text,
      // Proofs that are gone are left out.
      proofs: own.flatMap((id) => {
        const proof = known.get(id);
        return proof && rules.includes(proof.rule) ? [{ rule: proof.rule, name: proof.name }] : [];
      }),
    })),
  }));
}

interface StoredRule {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly state: RuleState;
  readonly definition: RuleDefinition;
  readonly live: RuleDefinition | null;
  readonly pilot: Pilot | null;
  readonly tried: RuleDefinition | null;
  readonly is_named: boolean;
  readonly tags: readonly string[];
}

async function rulesOf(transaction: Transaction, { schema }: LoadedWorkspace) {
  const s = quote(schema);
  const found = await run<StoredRule>(
    transaction,
    `SELECT r.id::text, r.name, r.is_named, r.note, r.tags, r.state, v.definition, r.pilot, t.definition AS tried,
        CASE WHEN r.live_version <> r.latest_version THEN l.definition END AS live
      FROM ${s}._rule r JOIN ${s}._rule_version v ON v.id = r.latest_version
      LEFT JOIN ${s}._rule_version l ON l.id = r.live_version
      LEFT JOIN ${s}._rule_version t ON t.id = r.pilot_version ORDER BY r.id`,
  );
  return found.map(({ live, pilot, tried, is_named: isNamed, tags, ...rule }) => ({
    ...{
      ...rule,
      ...(isNamed ? {} : ({ isNamed: false } as const)),
      ...(tags.length > 0 ? { tags } : {}),
      ...(live ? { live } : {}),
      ...(pilot ? { pilot } : {}),
      ...(tried ? { tried } : {}),
    },
  }));
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
      const rows = found.map((one) => rowFrom(workspace, type, one));
      const made = await madeFor(transaction, workspace, rows);
      for (const row of rows) {
        const values = entered.flatMap((field) => {
          const value = row.values[field.key] ?? null;
          return value === null ? [] : [[field.key, toWire(field.type, value)] as const];
        });
        after = row.id;
        const by = made.get(row.id);
        yield { type, id: row.id, values: Object.fromEntries(values), ...(by ? { madeFor: by } : {}) };
      }
      if (found.length < PAGE) break;
    }
  }
}

/** By which rules records were made, and for which that are there. */
async function madeFor(
  transaction: Transaction,
  { schema, model }: LoadedWorkspace,
  rows: readonly Row[],
): Promise<Map<string, MadeFor[]>> {
  const s = quote(schema);
  const found = await run<MadeFor & { made: string; type: string }>(
    transaction,
    `SELECT made::text, rule::text, source::text, source_type AS type FROM ${s}._made WHERE made = ANY($1::uuid[]) ORDER BY made, rule`,
    [rows.map(({ id }) => id)],
  );
  const there = new Set<string>();
  for (const type of new Set(found.map((one) => one.type)))
    if (model.type(type))
      for (const { id } of await run<{ id: string }>(
        transaction,
        `SELECT id::text FROM ${tableOf(schema, type)} WHERE id = ANY($1::uuid[]) AND deleted_run IS NULL`,
        [found.filter((one) => one.type === type).map(({ source }) => source)],
      ))
        there.add(id);
  const made = new Map<string, MadeFor[]>();
  for (const { made: id, rule, source } of found)
    if (there.has(source)) made.set(id, [...(made.get(id) ?? []), { rule, source }]);
  return made;
}

/** A file's name for a bundle: `oikon-wrenfield-2026-03-14.json`. */
export const bundleName = ({ key, timeZone }: LoadedWorkspace, now: Date): string =>
  `oikon-${key}-${dayIn(timeZone, now)}.json`;
