import { fieldIn, type Model, typeIn } from '@/core/model';
import type { CellRef } from '@/core/engine';
import { type CellView, type ChangeView, type RunList, type RunView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { Refusal } from '../refusal';
import { inSnapshot } from '../store/transactions';
import { quote, run, tableOf } from '../store/sql';
import type { LoadedWorkspace } from '../store/workspace';
import type { LedgerSource, RunInfo } from '../store/run-writer';
import { type LedgerWords, loggedValue, readLedgerWords, ruleOf } from './ledger-words';
import { Wanted } from './titles';

interface StoredRun {
  run: string;
  at: string;
  kind: RunInfo['kind'];
  person: string | null;
  note: string;
}

const COLUMNS = `r.id::text AS run, to_char(r.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') AS at, r.kind, r.person::text, r.note`;

/** Most ledger entries of a run that are counted in the list, and most records of one that are shown. */
const MOST_COUNTED = 1_000;
export const MOST_SHOWN = 300;

/** The workspace's runs, the latest first; `before` is a run's number. */
export function listRuns(workspace: LoadedWorkspace, before: string | null, limit: number): Promise<RunList> {
  return inSnapshot(async (transaction) => {
    const s = quote(workspace.schema);
    const found = await run<StoredRun & { changed: number }>(
      transaction,
      `SELECT ${COLUMNS}, (SELECT count(*)::int FROM (SELECT 1 FROM ${s}.ledger l WHERE l.run = r.id LIMIT ${MOST_COUNTED + 1}) x) AS changed
        FROM ${s}.run r WHERE $1::bigint IS NULL OR r.id < $1::bigint ORDER BY r.id DESC LIMIT $2`,
      [before, limit + 1],
    );
    const runs = found.slice(0, limit).map(({ changed, ...stored }) => ({
      ...headOf(workspace, stored),
      changed: { number: Math.min(changed, MOST_COUNTED), isExact: changed <= MOST_COUNTED },
    }));
    return { runs, next: found.length > limit ? runs.at(-1)!.run : null };
  });
}

const headOf = ({ people }: LoadedWorkspace, { run: number, at, kind, person, note }: StoredRun) => ({
  ...{ run: number, at, kind, note },
  person: person === null ? null : (people.get(person) ?? person),
});

interface Logged {
  type: string;
  record: string;
  event: 'changed' | 'deleted' | 'restored';
  changes: Record<string, [unknown, unknown]>;
  sources: Record<string, LedgerSource>;
}

/** A run with its whole ripple, as the ledger has it. */
export function getRun(workspace: LoadedWorkspace, id: string): Promise<RunView> {
  return inSnapshot(async (transaction) => {
    const s = quote(workspace.schema);
    const isNumber = /^\d{1,18}$/.test(id);
    const [stored] = isNumber
      ? await run<StoredRun>(transaction, `SELECT ${COLUMNS} FROM ${s}.run r WHERE r.id = $1`, [id])
      : [];
    if (!stored) throw new Refusal(404, 'run.unknown', `There is no run ${id}. Go back to the ledger.`);
    const logged = await run<Logged>(
      transaction,
      `SELECT type, record::text, event, changes, sources FROM ${s}.ledger WHERE run = $1 ORDER BY type, record LIMIT ${MOST_SHOWN + 1}`,
      [id],
    );
    const made = await madeBy(transaction, workspace, id);
    const shown = logged.slice(0, MOST_SHOWN);
    const wanted = new Wanted();
    for (const { type, id: one } of made) wanted.add(type, one);
    for (const { type, record } of shown) wanted.add(type, record);
    const words = await readLedgerWords(transaction, workspace, shown, wanted);
    const changes = [
      ...made.map((ref) => madeView(workspace.model, ref, words)),
      ...shown.flatMap((entry) => viewsOf(workspace.model, entry, words)),
    ];
    // What was asked for comes before what went along with it.
    changes.sort((a, b) => Math.min(1, a.causes.length) - Math.min(1, b.causes.length));
    const numbers = [...new Set(changes.map(({ wave }) => wave))].sort((a, b) => a - b);
    return {
      ...headOf(workspace, stored),
      waves: numbers.map((number) => ({
        number,
        changes: changes.filter(({ wave }) => wave === number).map(({ wave: _wave, ...view }) => view),
      })),
      isWhole: logged.length <= MOST_SHOWN && made.length < MOST_SHOWN,
    };
  });
}

interface Ref {
  readonly type: string;
  readonly id: string;
}

async function madeBy(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  id: string,
): Promise<Ref[]> {
  const made: Ref[] = [];
  for (const { key: type } of model.types) {
    const text = `SELECT id::text FROM ${tableOf(schema, type)} WHERE created_run = $1 ORDER BY id LIMIT ${MOST_SHOWN - made.length}`;
    made.push(...(await run<{ id: string }>(transaction, text, [id])).map((row) => ({ type, id: row.id })));
  }
  return made;
}

const cellOf = (model: Model, { type, id, field }: CellRef, { titles }: LedgerWords): CellView => ({
  ...{ type, id, field, title: titles[id] ?? id },
  fieldName: field === '' ? '' : fieldIn(model, type, field).name,
});

type Waved = ChangeView & { readonly wave: number };

function eventView(
  model: Model,
  ref: Ref,
  kind: ChangeView['kind'],
  words: LedgerWords,
  source?: LedgerSource,
): Waved {
  return {
    ...cellOf(model, { ...ref, field: '' }, words),
    ...{ kind, typeName: typeIn(model, ref.type).name, wave: source?.wave ?? 0 },
    ...{ before: null, after: null, problem: null, rule: null },
    causes: source?.causes.map((cause) => cellOf(model, cause, words)) ?? [],
  };
}

const madeView = (model: Model, ref: Ref, words: LedgerWords): Waved =>
  eventView(model, ref, 'created', words);

function viewsOf(
  model: Model,
  { type, record: id, event, changes, sources }: Logged,
  words: LedgerWords,
): Waved[] {
  const view = (field: string, wire: unknown) => loggedValue(model, { type, field }, wire, words);
  const events = event === 'changed' ? [] : [eventView(model, { type, id }, event, words, sources[''])];
  return [
    ...events,
    ...Object.entries(changes).map(([key, [before, after]]): Waved => {
      const source = sources[key];
      return {
        ...cellOf(model, { type, id, field: key }, words),
        ...{ kind: 'field', typeName: typeIn(model, type).name, wave: source?.wave ?? 0, problem: null },
        ...{ before: view(key, before), after: view(key, after) },
        rule: ruleOf(source, words),
        causes: source?.causes.map((cause) => cellOf(model, cause, words)) ?? [],
      };
    }),
  ];
}
