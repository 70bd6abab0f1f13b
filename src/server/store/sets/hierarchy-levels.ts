import { certain, firstIn, valueAt } from '@/core/values';
import { loopWords } from '@/core/engine';
import { typeIn } from '@/core/model';
import type { CompiledRule, Recursion } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { columnOf, quote, run, type Schema, tableOf } from '@/server/store/sql/sql';

/** A temporary table of all records of a type with their level: 0 for those that a rule which goes all the way down is worked out for first. */
export interface Levels {
  readonly table: string;
  readonly levels: number;
}

let number = 0;

/** The levels of a rule's targets, parts before what they are parts of. Refuses records that lie inside themselves, by name. */
export async function levelsOf(
  transaction: Transaction,
  schema: Schema,
  rule: CompiledRule,
  { down, up }: Recursion = certain(rule.recursion),
): Promise<Levels> {
  number += 1;
  const name = quote(`levels_${number}`);
  const table = `pg_temp.${name}`;
  const records = tableOf(schema.schema, rule.writes.type);
  if (up === null) {
    const link = columnOf(down.link);
    await run(
      transaction,
      `CREATE TEMPORARY TABLE ${name} ON COMMIT DROP AS
        WITH RECURSIVE beneath AS (
          SELECT t.id, 0 AS depth FROM ${records} t LEFT JOIN ${records} o ON o.id = t.${link} AND o.deleted_run IS NULL
            WHERE t.deleted_run IS NULL AND o.id IS NULL
          UNION ALL
          SELECT t.id, b.depth + 1 FROM beneath b JOIN ${records} t ON t.${link} = b.id WHERE t.deleted_run IS NULL
        )
        SELECT id, (SELECT max(depth) FROM beneath) - depth AS level FROM beneath`,
    );
    await run(transaction, `CREATE INDEX ON ${table} (level, id)`);
  } else await levelsOverBridge(transaction, schema, rule, name);
  // A temporary table has no statistics of its own accord, and plans that go by none read everything.
  await run(transaction, `ANALYZE ${table}`);
  const [found] = await run<{ levels: number | null }>(
    transaction,
    `SELECT max(level) + 1 AS levels FROM ${table}`,
  );
  return { table, levels: found?.levels ?? 0 };
}

/** Round by round: those all of whose parts have a level. */
async function levelsOverBridge(
  transaction: Transaction,
  schema: Schema,
  rule: CompiledRule,
  name: string,
): Promise<void> {
  const { down, up } = certain(rule.recursion);
  const { type } = rule.writes;
  const [bridge, records] = [tableOf(schema.schema, down.type), tableOf(schema.schema, type)];
  const table = `pg_temp.${name}`;
  await run(
    transaction,
    `CREATE TEMPORARY TABLE ${name} ON COMMIT DROP AS SELECT id, NULL::int AS level FROM ${records} WHERE deleted_run IS NULL`,
  );
  await run(transaction, `ALTER TABLE ${table} ADD PRIMARY KEY (id)`);
  await run(transaction, `CREATE INDEX ON ${table} (level)`);
  const waitsFor = `${bridge} b JOIN ${table} part ON part.id = b.${columnOf(certain(up))} AND part.level IS NULL
    WHERE b.${columnOf(down.link)} = l.id AND b.deleted_run IS NULL`;
  for (let level = 0; ; level += 1) {
    const levelled = await run(
      transaction,
      `UPDATE ${table} l SET level = ${level} WHERE l.level IS NULL AND NOT EXISTS (SELECT FROM ${waitsFor}) RETURNING 1`,
    );
    if (levelled.length === 0) break;
  }
  const title = columnOf(typeIn(schema.model, type).title);
  // Which of them lie on the loop, and which above one: following parts that wait, it comes round.
  const waiting = await run<{ id: string; title: string; part: string }>(
    transaction,
    `SELECT l.id::text, t.${title} AS title, (SELECT min(part.id::text) FROM ${waitsFor}) AS part
      FROM ${table} l JOIN ${records} t ON t.id = l.id WHERE l.level IS NULL`,
  );
  if (waiting.length === 0) return;
  const byId = new Map(waiting.map((one) => [one.id, one]));
  const path: string[] = [];
  let at = firstIn(waiting).id;
  while (!path.includes(at)) {
    path.push(at);
    at = valueAt(byId, at).part;
  }
  const titles = [...path.slice(path.indexOf(at)), at].map((id) => valueAt(byId, id).title);
  throw new Refusal(422, 'rule.loop', loopWords(schema.model, rule, titles));
}
