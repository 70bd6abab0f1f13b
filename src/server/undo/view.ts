import {
  certain,
  firstIn,
  compareText,
  parseValue,
  type Value,
  type ValueType,
  valueAt,
} from '@/core/values';
import { type Change, type Ripple, sameOutcome } from '@/core/engine';
import { fieldIn, type Model, typeIn } from '@/core/model';
import { rulesById } from '@/core/plan';
import { type ValueView, valueView } from '@/core/verify';
import {
  type ImportEffect,
  type LeftByUndo,
  type UndoneField,
  type UndoneRecords,
  type UndoView,
} from '@/core/api';
import type { Transaction } from 'sequelize';
import { fieldName } from '@/server/queries/ledger/ledger-words';
import { readTitles, Wanted } from '@/server/store/session/titles';
import { run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { messagesSent } from './made-and-proposed';
import { CELLS, RECORDS, type Undoing } from './staged';

/** So many records are told by name of each field, type or rule. */
export const MOST_SHOWN = 20;

/** Values by their fields, read together so that the titles of all that they name are asked for once. */
class Values {
  readonly #wanted = new Wanted();
  #titles: Readonly<Record<string, string>> = {};

  constructor(private readonly workspace: LoadedWorkspace) {}

  record(type: string, id: string): void {
    this.#wanted.add(type, id);
  }

  value(type: ValueType | null, wire: unknown): void {
    if (type?.kind === 'link') this.#wanted.add(type.target, wire);
  }

  async read(transaction: Transaction): Promise<void> {
    this.#titles = await readTitles(transaction, this.workspace, this.#wanted);
  }

  title(id: string): string {
    return this.#titles[id] ?? id;
  }

  /** `null` where the field can't hold it any more. */
  ofWire(type: ValueType | null, wire: unknown): ValueView | null {
    const parsed = type && parseValue(type, wire);
    return parsed?.ok ? this.of(certain(type), parsed.value) : null;
  }

  of(type: ValueType, value: Value): ValueView {
    return valueView(type, value, (id) => this.#titles[id] ?? this.workspace.people.get(id));
  }
}

interface Cell {
  readonly type: string;
  readonly id: string;
  readonly field: string;
  readonly before: unknown;
  readonly after: unknown;
  readonly records: number;
}

/** What was decided, in words; `effects` is what rules work out after it. */
export async function undoView(
  undoing: Undoing,
  effects: readonly ImportEffect[],
  { undoneBy, ...page }: { readonly undoneBy: string | null } & LeftPage,
): Promise<UndoView> {
  const { transaction, run: id } = undoing;
  const counted = firstIn(
    await run<{ left: number }>(
      transaction,
      `SELECT (SELECT count(*) FROM ${CELLS} WHERE why IS NOT NULL)::int + (SELECT count(*) FROM ${RECORDS} WHERE why IS NOT NULL)::int AS left`,
    ),
  );
  return {
    ...{ run: id, undoneBy, effects },
    written: await writtenIn(undoing),
    records: await recordsIn(undoing),
    leftCount: counted.left,
    left: await leftIn(undoing, page),
    messagesSent: await messagesSent(undoing),
  };
}

/** A part of what is left: so much, after so many. */
export interface LeftPage {
  readonly limit: number;
  readonly from: number;
}

const valueTypeOf = (model: Model, type: string, field: string): ValueType | null =>
  model.field(type, field)?.type ?? null;

async function writtenIn({ transaction, workspace }: Undoing): Promise<UndoneField[]> {
  const { model } = workspace;
  const cells = await run<Cell>(
    transaction,
    `SELECT type, id::text, field, before, after, records FROM (
        SELECT c.*, (count(*) OVER w)::int AS records, row_number() OVER (PARTITION BY type, field ORDER BY id) AS at
          FROM ${CELLS} c WHERE why IS NULL WINDOW w AS (PARTITION BY type, field)
      ) x WHERE at <= ${MOST_SHOWN} ORDER BY type, field, id`,
  );
  const values = new Values(workspace);
  for (const { type, id, field, before, after } of cells) {
    values.record(type, id);
    for (const wire of [before, after]) values.value(valueTypeOf(model, type, field), wire);
  }
  await values.read(transaction);
  const fields = new Map<string, UndoneField & { samples: ImportEffect['samples'][number][] }>();
  for (const { type, id, field, before, after, records } of cells) {
    const key = `${type}.${field}`;
    let of = fields.get(key);
    if (!of) {
      const named = { type, typeName: typeIn(model, type).name, fieldName: fieldName(model, type, field) };
      fields.set(key, (of = { ...named, records, samples: [] }));
    }
    const valueType = fieldIn(model, type, field).type;
    of.samples.push({
      ...{ id, title: values.title(id) },
      before: values.ofWire(valueType, after) ?? values.of(valueType, null),
      after: values.ofWire(valueType, before) ?? values.of(valueType, null),
    });
  }
  return [...fields.values()];
}

async function recordsIn({ transaction, workspace }: Undoing): Promise<UndoneRecords[]> {
  const found = await run<{ type: string; what: 'delete' | 'restore'; records: number; ids: string[] }>(
    transaction,
    `SELECT type, what, count(*)::int AS records, (array_agg(id::text ORDER BY id))[1:${MOST_SHOWN}] AS ids
      FROM ${RECORDS} WHERE why IS NULL GROUP BY type, what ORDER BY what, type`,
  );
  const values = new Values(workspace);
  for (const { type, ids } of found) for (const id of ids) values.record(type, id);
  await values.read(transaction);
  return found.map(({ type, what, records, ids }) => ({
    kind: what === 'delete' ? 'deleted' : 'restored',
    ...{ type, typeName: typeIn(workspace.model, type).name, records },
    samples: ids.map((id) => ({ id, title: values.title(id) })),
  }));
}

async function leftIn({ transaction, workspace }: Undoing, { limit, from }: LeftPage): Promise<LeftByUndo[]> {
  const { model } = workspace;
  interface Found extends Omit<Cell, 'records' | 'field'> {
    readonly field: string | null;
    readonly left: unknown;
    readonly why: string;
  }
  const found = await run<Found>(
    transaction,
    `SELECT x.type, x.id::text, x.field, x.before, x.after, x.left, x.why FROM (
        SELECT type, id, field, before, after, left_in AS left, why FROM ${CELLS} WHERE why IS NOT NULL
        UNION ALL SELECT type, id, NULL, NULL, NULL, NULL, why FROM ${RECORDS} WHERE why IS NOT NULL
      ) x ORDER BY x.field IS NOT NULL, x.type, x.id, x.field LIMIT ${limit} OFFSET ${from}`,
  );
  const values = new Values(workspace);
  for (const { type, id: record, field, before, after, left } of found) {
    values.record(type, record);
    const valueType = field === null ? null : valueTypeOf(model, type, field);
    for (const wire of [before, after, left]) values.value(valueType, wire);
  }
  await values.read(transaction);
  return found.map(({ type, id: record, field, before, after, left, why }) => {
    const valueType = field === null ? null : valueTypeOf(model, type, field);
    return {
      ...{ type, id: record, title: values.title(record), reason: why },
      fieldName: field === null ? null : fieldName(model, type, field),
      before: values.ofWire(valueType, before),
      after: values.ofWire(valueType, left),
      current: values.ofWire(valueType, after),
    };
  });
}

/** What rules that keep a field worked out, from a ripple: each value from what stood there before the undo. */
export async function effectsOfRipple(
  { transaction, workspace }: Pick<Undoing, 'transaction' | 'workspace'>,
  { changes }: Ripple,
): Promise<{ readonly effects: ImportEffect[]; readonly cells: readonly Change[] }> {
  const { model, plan } = workspace;
  const first = new Map<string, Change>();
  const last = new Map<string, Change>();
  for (const change of changes) {
    const key = `${change.type} ${change.id} ${change.field}`;
    if (!first.has(key)) first.set(key, change);
    last.set(key, change);
  }
  const cells = [...last].flatMap(([key, change]) => {
    const { before, errorBefore } = valueAt(first, key);
    return change.rule === null ? [] : [{ ...change, before, errorBefore }];
  });
  const differing = cells.filter(
    ({ before, after, error, errorBefore }) =>
      !sameOutcome(outcome(before, errorBefore), outcome(after, error)),
  );
  const values = new Values(workspace);
  const groups = new Map<string, Change[]>();
  for (const change of differing) {
    const key = `${certain(change.rule)} ${change.field}`;
    groups.set(key, [...(groups.get(key) ?? []), change]);
  }
  for (const group of groups.values())
    for (const { type, id, field, before, after } of group) {
      values.record(type, id);
      for (const value of [before, after]) values.value(fieldIn(model, type, field).type, value);
    }
  await values.read(transaction);
  const rules = rulesById(plan);
  const byTitle = (a: Change, b: Change) =>
    compareText(values.title(a.id), values.title(b.id)) || compareText(a.id, b.id);
  const effects = [...groups.values()].map((group): ImportEffect => {
    const [{ rule, type, field }] = group as [Change];
    const { name, type: valueType } = fieldIn(model, type, field);
    return {
      rule: { id: certain(rule), name: rules.get(rule!)?.name ?? '' },
      ...{ type, typeName: typeIn(model, type).name, fieldName: name, records: group.length },
      samples: group
        .sort(byTitle)
        .slice(0, MOST_SHOWN)
        .map(({ id, before, after }) => ({
          ...{ id, title: values.title(id) },
          before: values.of(valueType, before),
          after: values.of(valueType, after),
        })),
    };
  });
  return { effects, cells };
}

const outcome = (value: Value, error: Change['error']) => (error === null ? { value } : { error });
