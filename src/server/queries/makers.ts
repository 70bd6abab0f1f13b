import { makingOf, type Need, readerOf, recordKey, type Row, rowSet, runWith, titleOf } from '@/core/engine';
import { evaluatorOf } from '@/core/expression';
import { typeIn } from '@/core/model';
import { type CompiledCreate, isAtOnce, isCreate, wayOf, waysOf } from '@/core/rules';
import { toWire, type Value } from '@/core/values';
import type { FilledView, MadeByView, MakerView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { Refusal } from '../refusal';
import { LoadingDriver } from '../store/loading-driver';
import { readMade } from '../store/made';
import { inSnapshot } from '../store/transactions';
import { quote, run } from '../store/sql';
import { type LoadedWorkspace, readWorkspace } from '../store/workspace';
import { findRow, namesFor } from './records';
import { readTitles, Wanted } from './titles';

const makersIn = ({ plan }: LoadedWorkspace): CompiledCreate[] => plan.turns.filter(isCreate);

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
  const driver = new LoadingDriver(workspace, transaction);
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
    `SELECT r.id::text, r.name, m.source_type AS type, m.source::text FROM ${s}.made m JOIN ${s}.rule r ON r.id = m.rule WHERE m.made = $1 ORDER BY r.name`,
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

/** Fields of records that live rules keep in step one way with those for which they were made, by the records' ids. */
export async function claimedByMakers(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rows: readonly Row[],
): Promise<Map<string, string[]>> {
  const claimed = new Map<string, string[]>();
  const type = rows[0]?.type;
  const makers = makersIn(workspace).filter(
    (rule) =>
      rule.makes === type &&
      waysOf(rule.following).some(isAtOnce) &&
      waysOf(rule.returning).every((way) => way === 'not'),
  );
  for (const rule of makers) {
    const made = await readMade(transaction, workspace, { rule, by: 'made', ids: rows.map(({ id }) => id) });
    if (made.length === 0) continue;
    const driver = new LoadingDriver(workspace, transaction);
    await driver.loadInputs(
      rule,
      made.map(({ source }) => source),
    );
    const reader = readerOf(workspace.model, driver.overlay);
    for (const { made: id, source } of made) {
      const row = driver.overlay.row(rule.writes.type, source);
      if (!row || row.deleted || !isAtOnce(wayOf(rule.following, row.values))) continue;
      if (rule.where && evaluatorOf(rule.where)(row, reader.given, reader.beneath) !== true) continue;
      claimed.set(id, [...(claimed.get(id) ?? []), ...rule.assigned.map(({ target }) => target.key)]);
    }
  }
  return claimed;
}

/** What a rule would make for a record, for a person to complete and save; saves nothing. */
export function filledFor(known: LoadedWorkspace, id: string, source: string): Promise<FilledView> {
  return inSnapshot(async (transaction) => {
    const workspace = await readWorkspace(transaction, known);
    const { model, plan } = workspace;
    const rule = makersIn(workspace).find((one) => one.id === id);
    if (!rule)
      throw new Refusal(
        404,
        'rule.unknown',
        `No live rule ${id} makes records. Take it live first, or go back to the list of rules.`,
      );
    const row = await findRow(transaction, workspace, rule.writes.type, source);
    const made = await readMade(transaction, workspace, { rule, by: 'source', ids: [row.id] });
    if (rule.definition.each === 'once' && made.length > 0)
      throw new Refusal(
        409,
        'edit.made',
        `“${rule.name}” has made its ${typeIn(model, rule.makes).name} for “${titleOf(model, row)}” already, and makes one for each. It may be in the bin.`,
      );
    const driver = new LoadingDriver(workspace, transaction);
    const answer = (need: Need) => driver.answer(need);
    const rowsOf = function* (type: string, ids: Iterable<string>): Generator<Need, Map<string, Row>, never> {
      const { rows } = (yield { kind: 'records', set: rowSet(type, ids) }) as {
        rows: ReadonlyMap<string, Row>;
      };
      return new Map(rows);
    };
    const going = await runWith(
      answer,
      makingOf(
        { model, plan, rowsOf, touched: new Map(), asked: [row.id], rule: alwaysDirectly(rule) },
        { isEntered: () => false, isRestored: () => false },
      ),
    );
    const [one] = [...going.makes, ...going.proposals];
    if (!one)
      throw new Refusal(
        409,
        'make.condition',
        `“${titleOf(model, row)}” doesn’t meet the condition of “${rule.name}”, so there is nothing to make for it.`,
      );
    const values = Object.fromEntries(
      typeIn(model, rule.makes).fields.flatMap(({ key, type }) => {
        const value: Value = one.values[key] ?? null;
        return value === null || type.kind === 'serial' ? [] : [[key, toWire(type, value)]];
      }),
    );
    const filled: Row = {
      type: rule.makes,
      id: recordKey(row),
      version: 1,
      deleted: false,
      values: one.values,
      errors: {},
    };
    return {
      rule: { id: rule.id, name: rule.name, kind: 'create' },
      source: { type: row.type, id: row.id, title: titleOf(model, row) },
      ...{ type: rule.makes, values, missing: 'missing' in one ? one.missing : [] },
      names: await namesFor(transaction, workspace, [filled]),
    };
  });
}

/** The rule as a person makes use of it: each time, whatever its ways. */
const alwaysDirectly = (rule: CompiledCreate): CompiledCreate => ({
  ...rule,
  making: { field: null, rows: [], otherwise: 'directly' },
  definition: { ...rule.definition, each: 'everyTime' },
});
