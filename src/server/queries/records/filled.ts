import { makingOf, type Need, recordKey, type Row, rowSet, runWith, titleOf } from '@/core/engine';
import { typeIn } from '@/core/model';
import type { CompiledCreate } from '@/core/rules';
import { toWire, type Value } from '@/core/values';
import type { FilledView } from '@/core/api';
import { Refusal } from '@/server/refusal';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import { readMade } from '@/server/store/write/created-records';
import { runContextNow } from '@/server/store/write/run-context';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace } from '@/server/store/session/workspace';
import { makersIn } from './makers';
import { checkPerson } from '@/server/queries/workspaces/people';
import { findRow, namesFor } from './records';

/** What a rule would make for a record, for the person who asks to complete and save; saves nothing. */
export function filledFor(
  known: LoadedWorkspace,
  id: string,
  source: string,
  person: string | null,
): Promise<FilledView> {
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const { model, plan } = workspace;
    if (person !== null) checkPerson(workspace, person);
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
    const driver = new SnapshotDriver(workspace, transaction);
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
        {
          ...{ model, plan, rowsOf, touched: new Map(), asked: [row.id], rule: alwaysDirectly(rule) },
          facts: runContextNow(person),
        },
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
