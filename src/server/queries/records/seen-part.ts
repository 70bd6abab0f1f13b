import type { WireEdit } from '@/core/engine';
import { fieldIn, fieldSeen, typeIn } from '@/core/model';
import type { History } from '@/core/api';
import type { RippleView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { checkMay, seenTypeOf } from '@/server/queries/seen-workspace';
import { Wanted } from '@/server/store/session/titles';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { run, tableOf } from '@/server/store/sql/sql';
import { checkType } from './records';

/** Ids of records, by type, that somebody sees of those that are asked for. */
export async function seenIds(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  wanted: Wanted,
): Promise<ReadonlySet<string>> {
  const seen = new Set<string>();
  for (const [type, ids] of wanted.ids) {
    if (!model.type(type)) continue;
    const text = `SELECT t.id::text FROM ${tableOf(schema, type)} t WHERE t.id::text = ANY ($1::text[])`;
    for (const { id } of await run<{ id: string }>(transaction, text, [[...ids]])) seen.add(id);
  }
  return seen;
}

const MAY = { create: 'add', edit: 'change', delete: 'delete', restore: 'delete' } as const;

/**
 * Refuses what somebody who sees only a part of a workspace may not do, or can't since they don't know of it: to records, fields or records to link to that
 * they don't see. What isn't seen is answered like what isn't there.
 */
export async function checkEditsSeen(
  workspace: LoadedWorkspace,
  edits: readonly Pick<WireEdit, 'kind' | 'type' | 'id' | 'values'>[],
): Promise<void> {
  if (!workspace.sight) return;
  const { model, sight } = workspace;
  const wanted = new Wanted();
  for (const { kind, type, id, values = {} } of edits) {
    checkType(model, type);
    checkMay(workspace, type, MAY[kind]);
    const { name, fields } = typeIn(model, type);
    if (kind !== 'create') wanted.add(type, id);
    for (const [key, value] of Object.entries(values)) {
      const field = fields.find((one) => one.key === key);
      if (!field) throw new Refusal(422, 'field.unknown', `${name} has no field “${key}”. Leave it out.`);
      if (fieldSeen(sight, type, key) !== 'changed')
        throw new Refusal(
          403,
          'sight.part',
          `What you are here lets you look at ${field.name}, not change it.`,
        );
      if (field.type.kind === 'link') wanted.add(field.type.target, value);
    }
  }
  const seen = await database().transaction((transaction) => seenIds(transaction, workspace, wanted));
  for (const ids of wanted.ids.values())
    for (const id of ids)
      if (!seen.has(id))
        throw new Refusal(
          404,
          'sight.record',
          'A record that this names isn’t there, or is none of those that you see. Choose another.',
        );
}

/** Of what follows from a save, what somebody sees: the values themselves, not why they are so. */
export async function rippleSeen(workspace: LoadedWorkspace, ripple: RippleView): Promise<RippleView> {
  if (!workspace.sight) return ripple;
  const { model, sight } = workspace;
  const isKnown = ({ type, field }: { type: string; field: string }) =>
    model.type(type) !== undefined && (field === '' || fieldSeen(sight, type, field) !== 'hidden');
  const told = ripple.waves.map(({ number, changes }) => ({ number, changes: changes.filter(isKnown) }));
  const wanted = new Wanted();
  for (const { type, id } of told.flatMap(({ changes }) => changes)) wanted.add(type, id);
  const seen = await database().transaction((transaction) => seenIds(transaction, workspace, wanted));
  const isPlain = ({ type, field }: { type: string; field: string }) => {
    if (field === '') return true;
    const { type: kind } = fieldIn(model, type, field);
    return kind.kind !== 'link' || !seenTypeOf(workspace, kind.target)?.where;
  };
  return {
    waves: told
      .map(({ number, changes }) => ({
        number,
        changes: changes
          .filter((change) => seen.has(change.id) && isPlain(change))
          .map((change) => ({ ...change, causes: [], rule: null })),
      }))
      .filter(({ changes }) => changes.length > 0),
    ...{ outside: [], overruled: [], lapsed: [], later: [], many: [], proposals: [], left: [] },
    cost: ripple.cost,
  };
}

/** Of a record's history, what somebody sees: values of fields that they see, not by which rules and from what. */
export function historySeen(workspace: LoadedWorkspace, type: string, history: History): History {
  const { model, sight } = workspace;
  if (!sight) return history;
  const isTold = (key: string) => {
    const field = model.field(type, key);
    // A title may be of a record that they don't see.
    return field && !(field.type.kind === 'link' && seenTypeOf(workspace, field.type.target)?.where);
  };
  const entries = history.entries.map((entry) => ({
    ...{ ...entry, note: '', rule: null, causes: [] },
    changes: entry.changes
      .filter(({ field }) => isTold(field))
      .map((change) => ({ ...change, rule: null, causes: [] })),
  }));
  return {
    ...history,
    entries: entries.filter(({ event, changes }) => event !== 'changed' || changes.length > 0),
  };
}
