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
  for (const { key, fields, openLinks = [] } of types) {
    const table = tableOf(schema, key);
    for (const field of fields.filter((one) => one.required && isLink(one))) {
      const isHeld = !filled.has(`${key}.${field.key}`);
      const [column] = await run<{ held: boolean }>(
        transaction,
        'SELECT a.attnotnull AS held FROM pg_attribute a WHERE a.attrelid = $1::regclass AND a.attname = $2',
        [table, snake(field.key)],
      );
      if (column && column.held !== isHeld)
        await run(
          transaction,
          `ALTER TABLE ${table} ALTER COLUMN ${columnOf(field.key)} ${isHeld ? 'SET' : 'DROP'} NOT NULL`,
        );
    }
    for (const open of openLinks.filter(({ required }) => required)) {
      const isHeld = !open.links.some((link) => filled.has(`${key}.${link}`));
      const [found] = await run<{ held: boolean }>(
        transaction,
        `SELECT pg_get_constraintdef(c.oid) LIKE '%= 1%' AND pg_get_constraintdef(c.oid) NOT LIKE '%<= 1%' AS held
          FROM pg_constraint c WHERE c.conrelid = $1::regclass AND c.conname = $2`,
        [table, openLinkName(key, open.key)],
      );
      if (!found || found.held === isHeld) continue;
      await freeOpenLink(transaction, schema, key, open.key);
      await bindOpenLink(transaction, schema, key, { ...open, required: isHeld });
    }
  }
}
