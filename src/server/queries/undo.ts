import type { Row, WireEdit } from '@/core/engine';
import { type CompiledRule, isHandOn, isReacting } from '@/core/rules';
import { parseValue, sameValue, toWire } from '@/core/values';
import type { UndoView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { MOST_EDITS } from '../limits';
import { Refusal } from '../refusal';
import type { LedgerSource, RunInfo } from '../store/run-writer';
import { quote, run, tableOf } from '../store/sql';
import { inSnapshot } from '../store/transactions';
import { readRows } from '../store/values';
import type { LoadedWorkspace } from '../store/workspace';
import { fieldName } from './ledger-words';

interface Logged {
  readonly type: string;
  readonly record: string;
  readonly event: 'changed' | 'deleted' | 'restored';
  readonly changes: Readonly<Record<string, readonly [unknown, unknown]>>;
  readonly sources: Readonly<Record<string, LedgerSource>>;
}

/** What a run of this kind did can't be undone by edits, and why. */
const NOT_UNDONE: Partial<Record<RunInfo['kind'], string>> = {
  live: 'It filled what a rule keeps. Pause the rule, or change it, instead.',
  pause: 'It paused a rule. Take the rule live again instead.',
  day: 'It settled a day, which doesn’t come back.',
  model: 'It changed the model. Change the model back instead.',
  load: 'It loaded the workspace’s first records.',
};

/**
 * The edits that undo what people did in a run: values are written back where they are still that run's, records that it made go into
 * the bin, those that it deleted come back with what went along. What rules wrote isn't written back: rules work it out. What
 * somebody changed since is left, and told.
 */
export function undoOf(workspace: LoadedWorkspace, id: string): Promise<UndoView> {
  return inSnapshot(async (transaction) => {
    const s = quote(workspace.schema);
    const [found] = /^\d{1,18}$/.test(id)
      ? await run<{ kind: RunInfo['kind'] }>(transaction, `SELECT kind FROM ${s}._run WHERE id = $1`, [id])
      : [];
    if (!found) throw new Refusal(404, 'run.unknown', `There is no run ${id}. Go back to the ledger.`);
    const reason = NOT_UNDONE[found.kind];
    if (reason) throw new Refusal(409, 'undo.kind', `Run ${id} can’t be undone. ${reason}`);
    const logged = await run<Logged>(
      transaction,
      `SELECT type, record::text, event, changes, sources FROM ${s}._ledger WHERE run = $1 ORDER BY type, record LIMIT ${MOST_EDITS + 1}`,
      [id],
    );
    const made = await madeBy(transaction, workspace, id);
    if (logged.length + made.length > MOST_EDITS) {
      const message = `Run ${id} is too large to be undone at once: at most ${MOST_EDITS.toLocaleString('en')} records go into one undo.`;
      throw new Refusal(409, 'undo.size', message, [], { kind: found.kind });
    }
    const undo = new Undo(workspace, await rowsOf(transaction, workspace, [...logged, ...made]));
    for (const entry of logged) undo.entry(entry);
    for (const ref of made) undo.making(ref);
    return { run: id, large: null, edits: undo.edits, left: undo.left };
  });
}

interface Ref {
  readonly type: string;
  readonly record: string;
}

async function madeBy(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  id: string,
): Promise<Ref[]> {
  const made: Ref[] = [];
  for (const { key: type } of model.types) {
    const text = `SELECT id::text AS record FROM ${tableOf(schema, type)} WHERE created_run = $1 ORDER BY id LIMIT ${MOST_EDITS + 1 - made.length}`;
    made.push(
      ...(await run<{ record: string }>(transaction, text, [id])).map(({ record }) => ({ type, record })),
    );
    if (made.length > MOST_EDITS) break;
  }
  return made;
}

async function rowsOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  refs: readonly Ref[],
): Promise<Map<string, Row>> {
  const rows = new Map<string, Row>();
  for (const type of new Set(refs.map((ref) => ref.type))) {
    if (!workspace.model.type(type)) continue;
    const ids = new Set(refs.filter((ref) => ref.type === type).map(({ record }) => record));
    for (const row of await readRows(transaction, workspace, type, [...ids])) rows.set(row.id, row);
  }
  return rows;
}

class Undo {
  readonly edits: WireEdit[] = [];
  readonly left: UndoView['left'][number][] = [];

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly rows: ReadonlyMap<string, Row>,
  ) {}

  entry({ type, record, event, changes, sources }: Logged): void {
    const row = this.rows.get(record);
    // What went or came back along with another follows from that one.
    if (event === 'deleted' && !sources['']) {
      if (row?.deleted) this.edits.push({ kind: 'restore', type, id: record, version: row.version });
      else this.leave(type, record, '', 'it isn’t in the bin any more');
      return;
    }
    if (event === 'restored' && !sources['']) {
      if (row && !row.deleted) this.edits.push({ kind: 'delete', type, id: record, version: row.version });
      else this.leave(type, record, '', 'it is in the bin again');
      return;
    }
    const values: Record<string, unknown> = {};
    for (const [field, [before, after]] of Object.entries(changes)) {
      if (!this.isWrittenBack(type, field, sources[field])) continue;
      const why = this.whyNot(row, type, field, after);
      if (why) this.leave(type, record, field, why);
      else values[field] = before;
    }
    if (row && Object.keys(values).length > 0)
      this.edits.push({ kind: 'edit', type, id: record, version: row.version, values });
  }

  making({ type, record }: Ref): void {
    const row = this.rows.get(record);
    if (!row || row.deleted) return; // gone already
    if (row.version > 1) this.leave(type, record, '', 'somebody changed it since it was made');
    else this.edits.push({ kind: 'delete', type, id: record, version: row.version });
  }

  /** People's values, and those into which a rule reacted; what a rule keeps or a link policy cleared follows from others. */
  private isWrittenBack(type: string, field: string, source: LedgerSource | undefined): boolean {
    if (!source) return true;
    const isWriter = (rule: CompiledRule) =>
      (isReacting(rule) || isHandOn(rule)) && rule.writes.type === type && rule.writes.field === field;
    return source.ruleVersion !== null && this.workspace.plan.rules.some(isWriter);
  }

  /** Why a value stays as it is; `null` where it is still what the run left. */
  private whyNot(row: Row | undefined, type: string, field: string, after: unknown): string | null {
    const definition = this.workspace.model.field(type, field);
    if (!definition || !row) return 'it has been removed from the model';
    if (row.deleted) return 'its record is in the bin';
    if (this.workspace.plan.keeper({ type, field })) return 'a rule keeps it now';
    const parsed = parseValue(definition.type, after);
    const isStill = parsed.ok && sameValue(parsed.value, row.values[field] ?? null);
    return isStill ? null : 'it was changed since';
  }

  private leave(type: string, id: string, field: string, reason: string): void {
    const { model } = this.workspace;
    const row = this.rows.get(id);
    const title = row ? (row.values[model.type(type)!.title] as string | null) : null;
    const current = row && field !== '' && model.field(type, field);
    this.left.push({
      ...{ type, id, title: title ?? id, reason },
      fieldName: field === '' ? null : fieldName(model, type, field),
      current: current ? toWire(current.type, row.values[field] ?? null) : null,
    });
  }
}
