import {
  ask,
  type Change,
  type HandedToMany,
  handedToMany,
  handOn,
  type Need,
  reactionFails,
  rowSet,
  type RowsOf,
  runWith,
  takersOf,
  type Touched,
  titleOf,
  type WorkedOut,
} from '@/core/engine';
import { keepsField } from '../queries/rules';
import { follow, type Model } from '@/core/model';
import { type CompiledHandOn, type FieldRef, reachOf } from '@/core/rules';
import { isError } from '@/core/values';
import type { Transaction } from 'sequelize';
import { Refusal } from '../refusal';
import { PostgresDriver } from './driver';
import { handOnSet } from './hand-on-sql';
import { RunWriter } from './run-writer';
import { run } from './sql';
import { ALL_MADE, touchedInRun } from './touched-in-run';
import type { LoadedWorkspace } from './workspace';

export interface HandOnMany {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  /** The run that changed many records. */
  readonly run: string;
  /** All that one rule hands on. */
  readonly parts: readonly CompiledHandOn[];
  /** SQL of a query of the records of which a person entered the field in this run; `null` where none did. */
  readonly entered?: (ref: FieldRef) => string | null;
}

/** So many records that changed are looked at together. */
const PAGE = 2_000;
/** Most of them where several may hand on to one: these have to be put in order together. */
const MOST_TOGETHER = 20_000;

/**
 * What a rule hands on after a run over many records, as an import or an edit of a list: the ledger and the run's own records tell what
 * changed. The engine says what is written, page by page; nobody else saves meanwhile. Answers for each of the parts how many values it
 * wrote.
 */
export async function handOnMany(input: HandOnMany): Promise<number[]> {
  const { workspace, parts } = input;
  const written = parts.map(() => 0);
  const [rule] = parts as [CompiledHandOn];
  const reach = reachOf(workspace.model, rule.source, rule.route);
  const isAlone = reach === 'beneath' || reach === 'itself';
  const most = isAlone ? PAGE : MOST_TOGETHER + 1;
  for (const type of watchedTypes(workspace.model, rule)) {
    for (let after = ''; ;) {
      const page = await touchedIn(input, rule, type, { after, most });
      if (page.length === 0) break;
      if (!isAlone && page.length > MOST_TOGETHER) throw tooMany(rule, page.length);
      const counts = await handOnPage(input, page);
      counts.forEach((count, at) => {
        written[at]! += count;
      });
      if (page.length < most) break;
      after = page.at(-1)!.id;
    }
  }
  return written;
}

const tooMany = ({ name }: CompiledHandOn, records: number): Refusal =>
  new Refusal(
    422,
    'cascade.many',
    `“${name}” would have to put more than ${MOST_TOGETHER.toLocaleString('en')} records in order (${records.toLocaleString('en')} and more changed at once). Nothing was saved; send them in parts.`,
  );

/** Types whose records a rule acts on when they change, are made or are moved. */
function watchedTypes(model: Model, { writes, source, moment }: CompiledHandOn): string[] {
  if (moment.kind === 'onChange') return [source];
  return [...new Set(moment.up.map((_, at) => follow(model, writes.type, moment.up.slice(0, at))!))];
}

interface Page {
  readonly after: string;
  readonly most: number;
}

/** Records that the run made or changed so that the rule may act. */
function touchedIn(
  { transaction, workspace, run: runId }: HandOnMany,
  { writes, moment }: CompiledHandOn,
  type: string,
  page: Page,
): Promise<Touched[]> {
  const watched =
    moment.kind === 'onChange'
      ? moment.tests.map(({ field }) => field.key)
      : moment.up.filter((link) => workspace.model.field(type, link));
  // Of a record just made nothing changed, but it may have become something.
  const isMadeAsked =
    moment.kind === 'onChange' ? moment.tests.some(({ kind }) => kind === 'became') : type === writes.type;
  return touchedInRun(transaction, workspace, {
    ...{ run: runId, type, watched, made: isMadeAsked ? ALL_MADE : null, ...page },
  });
}

async function handOnPage(input: HandOnMany, page: readonly Touched[]): Promise<number[]> {
  const { transaction, workspace, run: runId, parts } = input;
  const { model } = workspace;
  const info = { kind: 'save', person: null } as const;
  const driver = new PostgresDriver(workspace, transaction, info, true);
  const touched = new Map(page.map((entry) => [`${entry.type} ${entry.id}`, entry]));
  const known = new Map(page.map((entry) => [`${entry.type} ${entry.id}`, entry.after!]));
  const rowsOf: RowsOf = function* (type, ids) {
    const wanted = [...ids];
    const set = rowSet(
      type,
      wanted.filter((id) => !known.has(`${type} ${id}`)),
    );
    if (set.ids.length > 0)
      for (const row of (yield* ask<'records'>({ kind: 'records', set })).rows.values())
        known.set(`${type} ${row.id}`, row);
    return new Map(
      wanted.flatMap((id) => (known.has(`${type} ${id}`) ? [[id, known.get(`${type} ${id}`)!]] : [])),
    );
  };
  const of = { model, touched, rowsOf };
  const answer = (need: Need) => driver.answer(need);
  const found = await runWith(
    answer,
    takersOf({ ...of, rule: parts[0]! }, () => false),
  );
  const refuse = (rule: CompiledHandOn, type: string, id: string): Refusal => {
    const row = known.get(`${type} ${id}`);
    return new Refusal(422, 'rule.reaction', reactionFails(rule, row ? titleOf(model, row) : id));
  };
  if ('many' in found) {
    const handed: HandedToMany[] = [];
    for (const rule of parts) {
      const given = await runWith(answer, handedToMany({ ...of, rule }, found.many));
      if ('failed' in given) throw refuse(rule, rule.source, given.failed);
      handed.push({ rule, given, except: [...(await enteredIn(input, rule))] });
    }
    const isKept = keepsField(workspace.plan);
    return handOnSet({ transaction, schema: workspace, run: runId, parts: handed, isKept });
  }
  const all: { worked: WorkedOut; causes: Change['causes'] }[] = [];
  for (const rule of parts) {
    const entered = await enteredIn(input, rule);
    const restraint = { isTaken: ({ id }: { id: string }) => entered.has(id) };
    const { failed, changed, causes } = await runWith(
      answer,
      handOn({ ...of, rule }, found.takers, restraint),
    );
    if (failed) throw refuse(rule, rule.writes.type, failed.id);
    all.push(...changed.map((worked) => ({ worked, causes: causes.get(worked.id) ?? [] })));
  }
  const made = new Set(page.flatMap(({ type, id, before: was }) => (was === null ? [`${type} ${id}`] : [])));
  const writer = new RunWriter(workspace, transaction, info, (ref) => known.get(`${ref.type} ${ref.id}`)!, {
    run: runId,
    made,
  });
  writer.add(
    all.map(({ worked: { rule, id, before: had, after }, causes }) => ({
      ...{ kind: 'edit' as const, ...rule.writes, id, wave: 1, events: [] },
      changes: [
        {
          ...{ ...rule.writes, id, wave: 1, rule: rule.id, causes },
          ...{ before: isError(had) ? null : had.value, after: isError(after) ? null : after.value },
          ...{ error: null, errorBefore: isError(had) ? had.error : null },
        },
      ],
    })),
  );
  await writer.finish();
  return parts.map((rule) => all.filter(({ worked }) => worked.rule === rule).length);
}

/** Ids of records of which a person entered the rule's field in this run. */
async function enteredIn(
  { transaction, entered }: HandOnMany,
  { writes }: CompiledHandOn,
): Promise<Set<string>> {
  const sql = entered?.(writes) ?? null;
  if (sql === null) return new Set();
  const found = await run<{ id: string }>(transaction, `SELECT x.id::text FROM (${sql}) x(id)`);
  return new Set(found.map(({ id }) => id));
}
