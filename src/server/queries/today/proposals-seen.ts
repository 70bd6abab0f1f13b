import { fieldSeen } from '@/core/model';
import type { Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { seenTypeOf } from '@/server/queries/seen-workspace';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { quote, run, tableOf } from '@/server/store/sql/sql';

/** A text in SQL, quoted by Sequelize. */
const literal = (text: string): string => database().escape(text);

/**
 * In SQL, of a proposal `p`: whether somebody who sees a part of the workspace sees all that it is about (the record it is for, the one it changes,
 * every field that it fills or leaves open, and the records that it links to), and may change that. Approving it does no more then than they could.
 */
export function proposalSeen(seen: LoadedWorkspace): string {
  const { model, schema, sight } = seen;
  if (!sight) return 'true';
  const isThere = (type: string, id: string) =>
    `EXISTS (SELECT FROM ${tableOf(schema, type)} t WHERE t.id::text = ${id})`;
  const sources = model.types.map(
    ({ key }) => `p.source_type = ${literal(key)} AND ${isThere(key, 'p.source::text')}`,
  );
  const targets = model.types.flatMap(({ key, fields }) => {
    const access = seenTypeOf(seen, key);
    const may = [
      ...(access === undefined || access?.add ? ['p.target IS NULL'] : []),
      ...(access === undefined || access?.change ? [isThere(key, 'p.target::text')] : []),
    ];
    if (may.length === 0) return [];
    const open = fields.filter((field) => fieldSeen(sight, key, field.key) === 'changed');
    const known = `ARRAY[${open.map((field) => literal(field.key)).join(', ')}]::text[]`;
    const links = open.flatMap(({ key: field, type }) => {
      if (type.kind !== 'link' || !seenTypeOf(seen, type.target)?.where) return [];
      const id = `p.content->>${literal(field)}`;
      return [`(${id} IS NULL OR ${isThere(type.target, id)})`];
    });
    return [
      [
        ...[`p.target_type = ${literal(key)}`, `(${may.join(' OR ')})`, `p.content - ${known} = '{}'`],
        `NOT EXISTS (SELECT FROM jsonb_array_elements(p.missing) m WHERE NOT m->>'field' = ANY (${known}))`,
        ...links,
      ].join(' AND '),
    ];
  });
  const any = (parts: readonly string[]) =>
    parts.length === 0 ? 'false' : `(${parts.map((part) => `(${part})`).join(' OR ')})`;
  return `${any(sources)} AND ${any(targets)}`;
}

/** Refuses a proposal that somebody doesn't see: to them there is none. */
export async function checkProposalSeen(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  seen: LoadedWorkspace,
  id: string,
): Promise<void> {
  const text = `SELECT 1 AS one FROM ${quote(schema)}._proposal p WHERE p.id::text = $1 AND ${proposalSeen(seen)}`;
  const found = await run(transaction, text, [id]);
  if (found.length === 0)
    throw new Refusal(404, 'proposal.unknown', 'There is no such proposal. Go back to Today.');
}
