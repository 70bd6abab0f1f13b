import {
  affectedTargets,
  readerOf,
  type RecordStore,
  type Row,
  runInMemory,
  type Touched,
  recordKey,
} from '@/core/engine';
import { evaluatorOf, reasonsAgainst, type Typed } from '@/core/expression';
import { typeIn } from '@/core/model';
import {
  type CompiledFormula,
  type CompiledLinked,
  type CompiledRollUp,
  contributionOf,
  isOfHalf,
  isReacting,
  isSlower,
} from '@/core/rules';
import { certain, firstIn } from '@/core/values';
import type { TrialContext } from './cascade-view';
import { type ChangeView, namesIn } from './views';

export type LeftContext = TrialContext & {
  /** The records as they stood before. */
  readonly before: RecordStore;
};

export type KeptAlone = CompiledRollUp | CompiledFormula | CompiledLinked;

/** A record that stays as it is, and why. */
interface Left {
  readonly id: string;
  readonly title: string;
  readonly why: string;
}

/** More records than these aren't gone over again: a ripple of thousands tells enough by what it changed. */
export const MOST_TOUCHED = 2_000;

/** What a run touched, as far as a ripple tells: each record as it stood and as it stands. */
export function touchedIn(
  { store, before }: LeftContext,
  changes: readonly ChangeView[],
): Map<string, Touched> {
  const touched = new Map<string, Touched>();
  for (const { type, id, field, kind } of changes) {
    const key = recordKey({ type, id });
    const known = touched.get(key);
    const fields = new Set(known?.fields);
    if (kind === 'field') fields.add(field);
    touched.set(key, {
      ...{ type, id, fields },
      before: before.row(type, id) ?? null,
      after: store.row(type, id) ?? null,
    });
  }
  return touched;
}

/**
 * Records of a roll-up, formula or link rule that it worked out again and left: what it gives there is what it gave. Each with why, where the rule says:
 * what changed doesn't count, or the rule doesn't apply. A rule that keeps several fields (`parts`) left what none of them changed.
 */
export function leftByKept(
  context: LeftContext,
  parts: readonly KeptAlone[],
  changes: readonly ChangeView[],
  touched: ReadonlyMap<string, Touched>,
): readonly Left[] {
  const rule = firstIn(parts);
  if (touched.size > MOST_TOUCHED || isSlower(rule)) return [];
  const { model, store, before } = context;
  const { type } = rule.writes;
  const fields = new Set(['', ...parts.map(({ writes }) => writes.field)]);
  const written = new Set(
    changes.filter((one) => one.type === type && fields.has(one.field)).map(({ id }) => id),
  );
  const left = new Map<string, Left>();
  for (const part of parts) {
    const { targets } = runInMemory(model, store, affectedTargets(model, part, touched));
    for (const [id, causes] of targets) {
      const row = store.row(type, id);
      if (!row || row.deleted || left.has(id) || written.has(id) || !before.row(type, id)) continue;
      if (isOfHalf(part.half, row, readerOf(model, store)) !== true) continue;
      const found = causes.flatMap((cause) => touched.get(recordKey(cause)) ?? []);
      const title = String(row.values[typeIn(model, type).title] ?? '');
      left.set(id, { id, title, why: whyLeft(context, part, row, found) });
    }
  }
  return [...left.values()];
}

const SAME = { rollUp: 'comes to the same', formula: 'comes to the same', linked: 'finds the same' } as const;

function whyLeft(context: LeftContext, rule: KeptAlone, row: Row, causes: readonly Touched[]): string {
  const isOut = 'claims' in rule && rule.claims && failed(context, rule.claims, row) !== null;
  if (isOut) return 'isn’t in the pilot';
  if (rule.kind === 'rollUp')
    return membersOut(context, rule, causes) ?? (isReacting(rule) ? 'is left by its table' : SAME.rollUp);
  const outside = rule.appliesWhen && failed(context, rule.appliesWhen, row);
  return outside ? `doesn’t apply: fails ${outside}` : SAME[rule.kind];
}

/** Why nothing of what changed counts, neither before nor now; `null` where some of it does, or did. */
function membersOut(context: LeftContext, rule: CompiledRollUp, causes: readonly Touched[]): string | null {
  let why: string | null = null;
  for (const cause of causes) {
    const source = rule.sources.find(({ type }) => type === cause.type);
    if (!source?.condition) return null;
    for (const [row, store] of [
      [cause.before, context.before],
      [cause.after, context.store],
    ] as const) {
      if (!row || row.deleted) continue;
      if (contributionOf(rule, source, row, readerOf(context.model, store)).kind !== 'leftOut') return null;
    }
    const row = cause.after ?? cause.before;
    const reason = row && failed(context, source.condition, row);
    why ??= reason ? `what changed doesn’t count: fails ${reason}` : null;
  }
  return why;
}

/** The first test that fails on a record, with what it finds; `null` where none does. */
function failed(context: LeftContext, condition: Typed, row: Row): string | null {
  const reader = readerOf(context.model, context.store);
  if (evaluatorOf(condition)(row, reader.given, reader.beneath) === true) return null;
  const reasons = reasonsAgainst(
    context.model,
    condition,
    (field) => reader.given(row, field),
    namesIn(context),
  );
  if (reasons.length === 0) return null;
  const { test, found } = firstIn(reasons);
  return `“${certain(test)}”: here ${found}`;
}
