import type { ModelDefinition, RecordType } from '@/core/model';
import type { LinkRule } from '@/core/rules';
import { firstIn } from '@/core/values';
import type { Transaction } from 'sequelize';
import { columnOf, openLinkName, quote, run, snake, tableOf } from '@/server/store/sql/sql';
import { bindOpenLink, freeOpenLink } from './tables';

/**
 * Required links that live rules fill are empty until they have, within a save: then not the database holds them, but the end of each run
 * (`linksLeft`, `refuseLeftEmpty`). Those that no live rule fills any more are held by the database again. Where nothing changes nothing is locked.
 */
export async function holdRequiredLinks(transaction: Transaction, schema: string): Promise<void> {
  const s = quote(schema);
  const { definition } = firstIn(
    await run<{ definition: ModelDefinition }>(
      transaction,
      `SELECT m.definition FROM ${s}._state s JOIN ${s}._model_version m ON m.id = s.model`,
    ),
  );
  const isLink = ({ type }: RecordType['fields'][number]) => type.kind === 'link';
  const types = definition.types.filter(
    ({ fields, openLinks = [] }) =>
      fields.some((field) => field.required && isLink(field)) || openLinks.some(({ required }) => required),
  );
  if (types.length === 0) return;
  const rules = await run<{ definition: LinkRule }>(
    transaction,
    `SELECT v.definition FROM ${s}._rule r JOIN ${s}._rule_version v ON v.id IN (r.live_version, r.pilot_version)
      WHERE r.state = 'live' AND v.definition ->> 'kind' = 'link'`,
  );
  const filled = new Set(rules.map(({ definition: { type, target } }) => `${type}.${target}`));
  const held = await heldIn(transaction, schema);
  for (const { key, fields, openLinks = [] } of types) {
    const table = tableOf(schema, key);
    for (const field of fields.filter((one) => one.required && isLink(one))) {
      const isToBe = !filled.has(`${key}.${field.key}`);
      const isHeld = held.columns.get(`${snake(key)}.${snake(field.key)}`);
      if (isHeld !== undefined && isHeld !== isToBe)
        await run(
          transaction,
          `ALTER TABLE ${table} ALTER COLUMN ${columnOf(field.key)} ${isToBe ? 'SET' : 'DROP'} NOT NULL`,
        );
    }
    for (const open of openLinks.filter(({ required }) => required)) {
      const isToBe = !open.links.some((link) => filled.has(`${key}.${link}`));
      const isHeld = held.open.get(openLinkName(key, open.key));
      if (isHeld === undefined || isHeld === isToBe) continue;
      await freeOpenLink(transaction, schema, key, open.key);
      await bindOpenLink(transaction, schema, key, { ...open, required: isToBe });
    }
  }
}

interface Held {
  /** By table and column, as they are named there: whether it may not be empty. */
  readonly columns: ReadonlyMap<string, boolean>;
  /** By the name of what holds an open link: whether exactly one of its links must be filled, rather than at most one. */
  readonly open: ReadonlyMap<string, boolean>;
}

async function heldIn(transaction: Transaction, schema: string): Promise<Held> {
  const found = await run<{ column: string | null; open: string | null; held: boolean }>(
    transaction,
    `SELECT c.relname || '.' || a.attname AS column, NULL AS open, a.attnotnull AS held
        FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid
        WHERE c.relnamespace = $1::regnamespace AND c.relkind = 'r' AND a.attnum > 0 AND a.atttypid = 'uuid'::regtype
      UNION ALL SELECT NULL, c.conname, pg_get_constraintdef(c.oid) LIKE '%= 1%' AND pg_get_constraintdef(c.oid) NOT LIKE '%<= 1%'
        FROM pg_constraint c WHERE c.connamespace = $1::regnamespace AND c.contype = 'c' AND starts_with(c.conname, 'open_')`,
    [quote(schema)],
  );
  const by = (of: 'column' | 'open') =>
    new Map(found.flatMap((one) => (one[of] === null ? [] : [[one[of], one.held] as const])));
  return { columns: by('column'), open: by('open') };
}
