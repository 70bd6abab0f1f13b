import type { Row, WireEdit } from '@/core/engine';
import { type CompiledRule, isHandOn, isReacting } from '@/core/rules';
import { typeIn } from '@/core/model';
import { parseValue, sameValue, toWire } from '@/core/values';
import type { UndoView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { MOST_EDITS } from '../limits';
import { Refusal } from '../refusal';
import type { LedgerSource, RunInfo } from '../store/run-writer';
import { columnOf, quote, run, tableOf } from '../store/sql';
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
    const refs = [...logged, ...made, ...namedBefore(workspace, logged)];
    const undo = new Undo(workspace, await rowsOf(transaction, workspace, refs));
    // What comes back comes first: links may name it again.
    const isBack = ({ event }: Logged) => event === 'deleted';
    for (const entry of [...logged.filter(isBack), ...logged.filter((one) => !isBack(one))])
      undo.entry(entry);
    for (const ref of made) undo.making(ref);
    undo.keepWhatHolds(await hanging(transaction, workspace, made));
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

/** The records that links named before, which writing them back needs. */
const namedBefore = ({ model }: LoadedWorkspace, logged: readonly Logged[]): Ref[] =>
  logged.flatMap(({ type, changes }) =>
    Object.entries(changes).flatMap(([field, [before]]): Ref[] => {
      const target = model.field(type, field)?.type;
      return target?.kind === 'link' && typeof before === 'string'
        ? [{ type: target.target, record: before }]
        : [];
    }),
  );

/** A record that hangs under another by a link. */
interface Hanging extends Ref {
  readonly link: string;
  readonly under: string;
  readonly title: string | null;
}

/** What hangs under records that a run made. */
async function hanging(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  made: readonly Ref[],
): Promise<Hanging[]> {
  const found: Hanging[] = [];
  for (const type of new Set(made.map((ref) => ref.type))) {
    const ids = made.filter((ref) => ref.type === type).map(({ record }) => record);
    for (const { type: child, link } of model.linksTo(type)) {
      const rows = await run<Pick<Hanging, 'record' | 'under' | 'title'>>(
        transaction,
        `SELECT c.id::text AS record, c.${columnOf(link)}::text AS under, c.${columnOf(typeIn(model, child).title)} AS title
          FROM ${tableOf(schema, child)} c WHERE c.${columnOf(link)} = ANY($1::uuid[]) AND c.deleted_run IS NULL ORDER BY c.id`,
        [ids],
      );
      found.push(...rows.map((row) => ({ ...row, type: child, link })));
    }
  }
  return found;
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
      const why = this.whyNot(row, type, field, after) ?? this.whyNotNamed(type, field, before);
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

  /**
   * A record that the run made stays where something hangs under it that stays: what others made or moved since isn't taken along unasked. What
   * goes itself, or is moved away by the undo, doesn't hold it.
   */
  keepWhatHolds(hangs: readonly Hanging[]): void {
    const movedTo = new Map(
      this.edits.flatMap(({ kind, id, values }) =>
        kind === 'edit' ? Object.entries(values!).map(([key, to]) => [`${id} ${key}`, to] as const) : [],
      ),
    );
    const held = hangs.filter(
      ({ record, link, under }) => (movedTo.get(`${record} ${link}`) ?? under) === under,
    );
    const going = new Map(
      this.edits.flatMap((edit) => (edit.kind === 'delete' ? [[edit.id!, edit] as const] : [])),
    );
    // One that stays holds what it hangs under.
    for (let before = -1; before !== going.size;) {
      before = going.size;
      for (const { type, record, under, title } of held) {
        const edit = going.get(under);
        if (!edit || going.has(record)) continue;
        going.delete(under);
        this.edits.splice(this.edits.indexOf(edit), 1);
        const { name } = typeIn(this.workspace.model, type);
        this.leave(edit.type, under, '', `the ${name} “${title ?? record}” hangs under it now`);
      }
    }
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

  /** Why a link can't name again what it named: that would be refused. */
  private whyNotNamed(type: string, field: string, before: unknown): string | null {
    const link = this.workspace.model.field(type, field)?.type;
    if (link?.kind !== 'link' || typeof before !== 'string') return null;
    const named = this.rows.get(before);
    const isRestored = this.edits.some(({ kind, id }) => kind === 'restore' && id === before);
    if (named && (!named.deleted || isRestored)) return null;
    const title = named?.values[typeIn(this.workspace.model, link.target).title] as string | undefined;
    return `${title ? `“${title}”, which it named,` : 'what it named'} is in the bin`;
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
