import type { Row } from '@/core/engine';
import { type Field, type RecordType, typeIn } from '@/core/model';
import { isClaiming } from '@/core/rules';
import { sameValue, toWire, lastIn, valueAt } from '@/core/values';
import { Refusal } from '@/server/refusal';
import { NONE } from '@/server/store/write/created-records';
import type { RunInfo } from '@/server/store/write/run-row';
import type { LedgerEntry } from '@/server/store/write/ledger-entries';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import { readRows } from '@/server/store/sql/columns';
import { holdBack } from './hold-back';
import {
  analyzeStage,
  ledgerValue,
  makeStage,
  stageCells,
  stageRecords,
  type StagedCell,
  type StagedRecord,
  type Undoing,
} from './staged';

/** What a run of this kind did can't be undone, and why. */
const NOT_UNDONE: Partial<Record<RunInfo['kind'], string>> = {
  live: 'It filled what a rule keeps. Pause the rule, or change it, instead.',
  pause: 'It paused rules. Take them live again instead.',
  day: 'It settled a day, which doesn’t come back.',
  model: 'It changed the model. Change the model back instead.',
  load: 'It loaded the workspace’s first records.',
};

/** So many entries of the ledger, or records, are decided together. */
const PAGE = 5_000;

/**
 * Decides what undoing a run does, in temporary tables: every value that it wrote, itself or by a rule, goes back where it still stands as
 * the run left it; records that it made go into the bin, those that it deleted come back, those that it brought back go again. What somebody changed since
 * stays, and so does what a save would refuse, each with its reason. Writes no record.
 */
export async function decide(undoing: Undoing): Promise<void> {
  await checkKind(undoing);
  await makeStage(undoing.transaction);
  await stageLogged(undoing);
  for (const { key } of undoing.workspace.model.types) await stageMade(undoing, key);
  await analyzeStage(undoing.transaction);
  await holdBack(undoing);
}

async function checkKind({ transaction, logged, run: id }: Undoing): Promise<void> {
  const [found] = /^\d{1,18}$/.test(id)
    ? await run<{ kind: RunInfo['kind'] }>(
        transaction,
        `SELECT kind FROM ${quote(logged)}._run WHERE id = $1`,
        [id],
      )
    : [];
  if (!found) throw new Refusal(404, 'run.unknown', `There is no run ${id}. Go back to the ledger.`);
  const reason = NOT_UNDONE[found.kind];
  if (reason) throw new Refusal(409, 'undo.kind', `Run ${id} can’t be undone. ${reason}`);
}

/** What the run changed, deleted and brought back, page by page of its ledger: sorted once, and read on where it was left. */
async function stageLogged(undoing: Undoing): Promise<void> {
  const { transaction, logged, run: id, workspace } = undoing;
  await run(
    transaction,
    `DECLARE _undo_logged NO SCROLL CURSOR FOR SELECT type, record::text, event, changes, sources
      FROM ${quote(logged)}._ledger WHERE run = ${BigInt(id)} ORDER BY type, record`,
  );
  for (;;) {
    const page = await run<LedgerEntry>(transaction, `FETCH ${PAGE} FROM _undo_logged`);
    for (const type of new Set(page.map((entry) => entry.type))) {
      const entries = page.filter((entry) => entry.type === type);
      // What was removed from the model has no records any more.
      if (workspace.model.type(type)) await new PageOf(undoing, typeIn(workspace.model, type)).stage(entries);
    }
    if (page.length < PAGE) break;
  }
  await run(transaction, 'CLOSE _undo_logged');
}

/** Records of a type that the run made and that are there. */
async function stageMade(undoing: Undoing, type: string): Promise<void> {
  const { transaction, workspace, run: id } = undoing;
  const from = `FROM ${tableOf(workspace.schema, type)} t WHERE created_run = ${BigInt(id)} AND deleted_run IS NULL`;
  await run(
    transaction,
    `INSERT INTO _undo_record (type, id, what) SELECT $1, id, 'delete' ${from} AND version = 1`,
    [type],
  );
  for (let after = NONE; ;) {
    const page = await run<{ id: string }>(
      transaction,
      `SELECT id::text ${from} AND version > 1 AND id > $1::uuid ORDER BY t.id LIMIT ${PAGE}`,
      [after],
    );
    const ids = page.map((one) => one.id);
    const rows = await readRows(transaction, workspace, type, ids);
    const changed = await changedSince(undoing, type, rows);
    const staged = ids.map((one): StagedRecord => {
      const why = changed.has(one) ? 'somebody changed it since it was made' : null;
      return { type, id: one, what: 'delete', with: null, inRun: null, why };
    });
    await stageRecords(transaction, staged);
    if (page.length < PAGE) return;
    after = lastIn(page).id;
  }
}

/** Records in which a value that a person changed since the run is another now than right after it. */
async function changedSince(
  { transaction, workspace, logged, run: id }: Undoing,
  type: string,
  rows: readonly Row[],
): Promise<ReadonlySet<string>> {
  if (rows.length === 0) return new Set();
  const entries = await run<Pick<LedgerEntry, 'record' | 'changes' | 'sources'>>(
    transaction,
    `SELECT record::text, changes, sources FROM ${quote(logged)}._ledger WHERE type = $1 AND record = ANY($2::uuid[]) AND run > $3 ORDER BY run`,
    [type, rows.map((row) => row.id), id],
  );
  const byId = new Map(rows.map((row) => [row.id, row]));
  /** What stood in a cell right after the run, and whether a person wrote it since. */
  const cells = new Map<string, { record: string; field: string; first: unknown; byPerson: boolean }>();
  for (const { record, changes, sources } of entries)
    for (const [field, [before]] of Object.entries(changes)) {
      const key = `${record} ${field}`;
      const cell = cells.get(key) ?? { record, field, first: before, byPerson: false };
      cells.set(key, { ...cell, byPerson: cell.byPerson || !sources[field] });
    }
  const changed = [...cells.values()].filter(({ record, field, first, byPerson }) => {
    const row = valueAt(byId, record);
    if (!byPerson || !workspace.model.field(type, field)) return false;
    const was = ledgerValue(workspace, type, field, first);
    return !was.ok || !sameValue(was.value, row.values[field] ?? null);
  });
  return new Set(changed.map(({ record }) => record));
}

/** A page of the run's ledger, of one type. */
class PageOf {
  readonly #fields: ReadonlyMap<string, Field>;
  readonly #openOf: ReadonlyMap<string, string>;
  /** Fields that a rule keeps on some records and people on others. */
  readonly #claimed: ReadonlySet<string>;

  constructor(
    private readonly undoing: Undoing,
    private readonly type: RecordType,
  ) {
    this.#fields = new Map(type.fields.map((field) => [field.key, field]));
    this.#claimed = new Set(
      undoing.workspace.plan.rules
        .filter((rule) => isClaiming(rule) && rule.writes.type === type.key)
        .map(({ writes }) => writes.field),
    );
    this.#openOf = new Map(
      (type.openLinks ?? []).flatMap(({ key, links }) => links.map((link) => [link, key] as const)),
    );
  }

  async stage(entries: readonly LedgerEntry[]): Promise<void> {
    const { transaction, workspace } = this.undoing;
    const { key } = this.type;
    const ids = entries.map(({ record }) => record);
    const rows = new Map((await readRows(transaction, workspace, key, ids)).map((row) => [row.id, row]));
    const of = (what: LedgerEntry['event']) =>
      entries.flatMap(({ event, record }) => (event === what ? [record] : []));
    const restored = of('restored');
    const [goneBy, putIn] = [await this.goneBy(of('deleted')), await this.putIn(restored)];
    const changed = await changedSince(
      this.undoing,
      key,
      restored.flatMap((record) => rows.get(record) ?? []),
    );
    const records: StagedRecord[] = [];
    const cells: StagedCell[] = [];
    for (const entry of entries) {
      const row = rows.get(entry.record);
      if (!row) continue; // its type was removed and made anew
      const record = this.recordOf(entry, row, {
        isGoneBy: goneBy.has(row.id),
        putIn: putIn.get(row.id),
        changed,
      });
      if (record) records.push(record);
      const isThere = !row.deleted || (record?.what === 'restore' && record.why === null);
      cells.push(...this.cellsOf(entry, row, isThere));
    }
    await stageRecords(transaction, records);
    await stageCells(transaction, cells);
  }

  /** Records that lie in the bin as the run left them: it put them there, or an undo put them there again in its name. */
  private async goneBy(ids: readonly string[]): Promise<ReadonlySet<string>> {
    const { transaction, workspace, logged, run: id } = this.undoing;
    if (ids.length === 0) return new Set();
    const found = await run<{ id: string }>(
      transaction,
      `SELECT t.id::text FROM ${tableOf(workspace.schema, this.type.key)} t WHERE t.id = ANY($1::uuid[]) AND t.deleted_run IS NOT NULL AND (t.deleted_run = $2
        OR $2 = (SELECT l.run FROM ${quote(logged)}._ledger l WHERE l.type = $3 AND l.record = t.id AND l.event <> 'changed' ORDER BY l.run DESC LIMIT 1))`,
      [ids, id, this.type.key],
    );
    return new Set(found.map((one) => one.id));
  }

  /** The runs that had put records into the bin before this one brought them back. */
  private async putIn(ids: readonly string[]): Promise<ReadonlyMap<string, string>> {
    const { transaction, logged, run: id } = this.undoing;
    if (ids.length === 0) return new Map();
    const found = await run<{ id: string; run: string }>(
      transaction,
      `SELECT DISTINCT ON (l.record) l.record::text AS id, COALESCE(p.in_run, l.run)::text AS run
        FROM ${quote(logged)}._ledger l LEFT JOIN ${quote(logged)}._put_again p ON p.record = l.record AND p.run = l.run
        WHERE l.type = $1 AND l.record = ANY($2::uuid[]) AND l.event = 'deleted' AND l.run < $3 ORDER BY l.record, l.run DESC`,
      [this.type.key, ids, id],
    );
    return new Map(found.map((one) => [one.id, one.run]));
  }

  private recordOf(
    { event, record: id, sources }: LedgerEntry,
    row: Row,
    {
      isGoneBy,
      putIn,
      changed,
    }: {
      /** Whether it lies in the bin as the run left it. */
      readonly isGoneBy: boolean;
      /** The run that had put it into the bin before. */
      readonly putIn: string | undefined;
      readonly changed: ReadonlySet<string>;
    },
  ): StagedRecord | null {
    const { key: type } = this.type;
    if (event === 'changed') return null;
    if (event === 'deleted') {
      const why = !row.deleted
        ? 'it isn’t in the bin any more'
        : isGoneBy
          ? null
          : 'it came back since, and went into the bin again';
      return { type, id, what: 'restore', with: null, inRun: null, why };
    }
    const why = row.deleted
      ? 'it is in the bin again'
      : changed.has(id)
        ? 'somebody changed it since it came back'
        : null;
    const [cause] = sources['']?.causes ?? [];
    return {
      type,
      id,
      what: 'delete',
      with: cause ? { type: cause.type, id: cause.id } : null,
      inRun: putIn ?? null,
      why,
    };
  }

  private cellsOf({ changes, sources, record: id }: LedgerEntry, row: Row, isThere: boolean): StagedCell[] {
    const { plan } = this.undoing.workspace;
    const { key: type } = this.type;
    const cells = Object.entries(changes).flatMap(([field, [before, after]]): StagedCell[] => {
      const definition = this.#fields.get(field);
      if (!definition || definition.type.kind === 'serial') return [];
      const isByRule = sources[field] !== undefined;
      const isKept = plan.keeper({ type, field }) !== undefined;
      if (isKept && isByRule) return []; // it is worked out
      const isClaimed = this.#claimed.has(field);
      const why = isKept ? 'a rule keeps it now' : this.whyNot(definition, row, isThere, { before, after });
      // What a rule that keeps it has written since follows from others.
      if (why === CHANGED && isClaimed && isByRule) return [];
      const current = toWire(definition.type, row.values[field] ?? null);
      const open = this.#openOf.get(field) ?? null;
      return [{ ...{ type, id, field, before, after: current, left: after }, isClaimed, open, why }];
    });
    return this.withOpenLinks(row, cells);
  }

  /** Why a value stays as it is; `null` where it is still what the run left and may be what it was. */
  private whyNot(
    { key, required }: Field,
    row: Row,
    isThere: boolean,
    { before, after }: { readonly before: unknown; readonly after: unknown },
  ): string | null {
    const { workspace } = this.undoing;
    const left = ledgerValue(workspace, this.type.key, key, after);
    if (!left.ok || !sameValue(left.value, row.values[key] ?? null)) return CHANGED;
    if (!isThere) return 'its record is in the bin';
    const was = ledgerValue(workspace, this.type.key, key, before);
    if (!was.ok) return 'what stood there before doesn’t fit the field any more';
    if (required && was.value === null) return 'the field is required now';
    return null;
  }

  /** The links of an open link go back together or not at all: it names one record. */
  private withOpenLinks(row: Row, cells: readonly StagedCell[]): StagedCell[] {
    return cells.map((cell) => {
      const open = this.type.openLinks?.find(({ key }) => key === cell.open);
      if (!open || cell.why !== null) return cell;
      const filled = open.links.filter((link) => {
        const back = cells.find(({ field }) => field === link);
        return back && back.why === null ? back.before !== null : (row.values[link] ?? null) !== null;
      }).length;
      const isSound = filled === 1 || (filled === 0 && !open.required);
      return isSound ? cell : { ...cell, why: OPEN };
    });
  }
}

const CHANGED = 'it was changed since';
/** Why a link stays that is one of several, of which one is filled. */
const OPEN = 'it would name several records, or none, where it names one';
