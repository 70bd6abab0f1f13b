import { type Row, storedOutcome } from '@/core/engine';
import { fieldIn, type Model } from '@/core/model';
import type { FieldRef } from '@/core/rules';
import { isError, toWire, type WireValue } from '@/core/values';
import type { Expectation } from '@/core/verify/proof/proof';
import { type ProofRun, proposedKey } from '@/core/verify/rehearsal/run-through';

interface Cell extends FieldRef {
  readonly id: string;
  readonly was: WireValue;
  readonly is: WireValue;
}

type MadeValues = Readonly<Record<string, WireValue>>;

/** What came of a rule: of the fields that it writes, at the beginning and at the end, and what it made and proposed. */
export interface RuleEffect {
  readonly cells: ReadonlyMap<string, Cell>;
  /** By the record for which they were made; those in the bin are of no account. */
  readonly made: ReadonlyMap<string, readonly MadeValues[]>;
  /** Records for which a proposal waits. */
  readonly proposed: ReadonlySet<string>;
  /** The same for the same that came. */
  readonly key: string;
}

/** What came of a rule at the end of runs; `watched` are the fields that it writes. */
export function effectOf(
  model: Model,
  { base, store, proposed }: ProofRun,
  rule: string,
  watched: readonly FieldRef[],
): RuleEffect {
  const ids = model.types.flatMap(({ key }) => [...store.rows(key)].map(({ id }) => id));
  const makings = store.notes.made(rule, 'source', ids);
  const made = new Map<string, MadeValues[]>();
  for (const { source, made: id } of makings) {
    const row = model.types.flatMap(({ key }) => store.row(key, id) ?? [])[0];
    if (!row || row.deleted) continue;
    const own = watched.filter(({ type }) => type === row.type);
    const values = Object.fromEntries(own.map((ref) => [ref.field, wireAt(model, row, ref.field)]));
    made.set(source, [...(made.get(source) ?? []), values]);
  }
  const madeIds = new Set(makings.map((one) => one.made));
  const cells = new Map<string, Cell>();
  for (const { type, field } of watched)
    for (const row of store.rows(type)) {
      if (row.deleted || madeIds.has(row.id)) continue;
      const before = base.row(type, row.id);
      const was = before ? wireAt(model, before, field) : null;
      cells.set(cellAt(row.id, field), { type, field, id: row.id, was, is: wireAt(model, row, field) });
    }
  const waiting = new Set(ids.filter((source) => proposed.has(proposedKey({ rule, source }))));
  const sorted = <T>(of: Iterable<readonly [string, T]>) => [...of].sort(([a], [b]) => (a < b ? -1 : 1));
  const key = JSON.stringify([
    sorted([...cells].map(([cell, { is }]) => [cell, is] as const)),
    sorted(made),
    [...waiting].sort(),
  ]);
  return { cells, made, proposed: waiting, key };
}

export const cellAt = (id: string, field: string): string => `${id} ${field}`;

function wireAt(model: Model, row: Row, field: string): WireValue {
  const outcome = storedOutcome(row, field);
  return isError(outcome) ? null : toWire(fieldIn(model, row.type, field).type, outcome.value);
}

/** Whether the rule did something: to a value that stood otherwise before, or by making or proposing. */
export const isStirring = ({ cells, made, proposed }: RuleEffect): boolean =>
  made.size > 0 || proposed.size > 0 || [...cells.values()].some(({ was, is }) => !isSame(was, is));

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** What a rule gives where another form of it would give something else; without one, all that it gives. */
export function expectedOf(rule: string, came: RuleEffect, would: RuleEffect | null): Expectation[] {
  const cells = [...came.cells].flatMap(([key, { type, id, field, was, is }]): Expectation[] => {
    const other = would?.cells.get(key);
    if (other && isSame(other.is, is)) return [];
    return [{ kind: isSame(was, is) ? 'stays' : 'becomes', type, id, field, value: is }];
  });
  const made = [...new Set([...came.made.keys(), ...(would?.made.keys() ?? [])])].flatMap(
    (source): Expectation[] => {
      const [all, others] = [came.made.get(source) ?? [], would ? (would.made.get(source) ?? []) : null];
      const [values] = all;
      if (!values) return [{ kind: 'isNotMade', rule, source }];
      if (others?.length === 0) return [{ kind: 'isMade', rule, source, values: {} }];
      const times = others && others.length !== all.length ? { times: all.length } : {};
      const unlike = Object.entries(values).filter(
        ([field, value]) => !others || !isSame(value, others[0]?.[field]),
      );
      if (others && unlike.length === 0 && times.times === undefined) return [];
      return [{ kind: 'isMade', rule, source, values: Object.fromEntries(unlike), ...times }];
    },
  );
  const sources = [...new Set([...came.proposed, ...(would?.proposed ?? [])])];
  const proposed = sources
    .filter((source) => !would || came.proposed.has(source) !== would.proposed.has(source))
    .map((source): Expectation => {
      return { kind: came.proposed.has(source) ? 'isProposed' : 'isNotProposed', rule, source };
    });
  return [...cells, ...made, ...proposed];
}
