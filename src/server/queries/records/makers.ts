import { readerOf, type Row } from '@/core/engine';
import { evaluatorOf } from '@/core/expression';
import { typeIn } from '@/core/model';
import { type CompiledCreate, isAtOnce, isCreate, isHeld, executionModesOf } from '@/core/rules';
import type { MadeByView, MakerView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import { readMade } from '@/server/store/write/created-records';
import { quote, run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { readTitles, Wanted } from '@/server/store/session/titles';

export const makersIn = ({ plan }: LoadedWorkspace): CompiledCreate[] => plan.turns.filter(isCreate);

/** Whether a person may ask a rule for a record. */
const isAskable = ({ definition: { pace, mayAsk } }: CompiledCreate): boolean =>
  mayAsk === true || (typeof pace !== 'string' && pace.kind === 'onRequest');

/** What a person may have made for a record by live rules, and what these made for it already. */
export async function makersOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  row: Row,
): Promise<MakerView[]> {
  const { model } = workspace;
  const makers = makersIn(workspace).filter((rule) => rule.writes.type === row.type && isAskable(rule));
  if (makers.length === 0) return [];
  const driver = new SnapshotDriver(workspace, transaction);
  driver.know(row);
  const views: MakerView[] = [];
  for (const rule of makers) {
    await driver.loadInputs(rule, [row.id]);
    const reader = readerOf(model, driver.overlay);
    const meets = rule.where === null || evaluatorOf(rule.where)(row, reader.given, reader.beneath) === true;
    const made = await readMade(transaction, workspace, { rule, by: 'source', ids: [row.id] });
    const wanted = new Wanted();
    for (const { made: id } of made) wanted.add(rule.makes, id);
    const titles = await readTitles(transaction, workspace, wanted);
    views.push({
      rule: { id: rule.id, name: rule.name, kind: 'create' },
      ...{ makes: rule.makes, makesName: typeIn(model, rule.makes).name, meets },
      isOnce: rule.definition.each === 'once',
      made: made.map(({ made: id }) => ({ type: rule.makes, id, title: titles[id] ?? id })),
    });
  }
  return views;
}

/** The rules that made a record, each with the record for which. */
export async function madeByOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  row: Row,
): Promise<MadeByView[]> {
  const s = quote(workspace.schema);
  const found = await run<{ id: string; name: string; type: string; source: string }>(
    transaction,
    `SELECT r.id::text, r.name, m.source_type AS type, m.source::text FROM ${s}._made m JOIN ${s}._rule r ON r.id = m.rule WHERE m.made = $1 ORDER BY r.name`,
    [row.id],
  );
  const wanted = new Wanted();
  for (const { type, source } of found) if (workspace.model.type(type)) wanted.add(type, source);
  const titles = await readTitles(transaction, workspace, wanted);
  return found.map(({ id, name, type, source }) => ({
    rule: { id, name, kind: 'create' },
    source: { type, id: source, title: titles[source] ?? source },
  }));
}

/** Fields of records that people can't enter, since live rules cascade them from those for which they were made, by the records' ids. */
export async function claimedByMakers(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rows: readonly Row[],
): Promise<Map<string, string[]>> {
  const claimed = new Map<string, string[]>();
  const type = rows[0]?.type;
  const makers = makersIn(workspace).filter(
    (rule) => rule.makes === type && executionModesOf(rule.following).some(isAtOnce),
  );
  for (const rule of makers) {
    const made = await readMade(transaction, workspace, { rule, by: 'made', ids: rows.map(({ id }) => id) });
    if (made.length === 0) continue;
    const driver = new SnapshotDriver(workspace, transaction);
    await driver.loadInputs(
      rule,
      made.map(({ source }) => source),
    );
    const reader = readerOf(workspace.model, driver.overlay);
    for (const { made: id, source } of made) {
      const row = driver.overlay.row(rule.writes.type, source);
      if (!row || row.deleted) continue;
      const held = rule.assigned.filter((one) => isHeld(rule, one, row.values));
      if (held.length === 0) continue;
      if (rule.where && evaluatorOf(rule.where)(row, reader.given, reader.beneath) !== true) continue;
      claimed.set(id, [...(claimed.get(id) ?? []), ...held.map(({ target }) => target.key)]);
    }
  }
  return claimed;
}
