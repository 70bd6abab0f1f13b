import { firstIn, itemAt } from '@/core/values';
import {
  isCircle,
  isStage,
  quietStepsOf,
  type Continuation,
  WritePrecedence,
  type ScheduleStep,
  scheduleOf,
} from '@/core/engine';
import {
  type AnyCompiled,
  competeForField,
  asksWhich,
  type CompiledCreate,
  type CompiledRule,
  isReactingCascade,
  isReacting,
  isSlower,
  singleLink,
} from '@/core/rules';
import type { Transaction } from 'sequelize';
import { type Tell, untold } from '@/server/progress';
import { keepsField } from '@/server/store/write/keeps-field';
import { type FillInput, fillRules } from '@/server/store/sets/fill';
import { askWhich } from '@/server/store/run/candidates';
import { bulkCascade, rivalsRefused } from './bulk-cascade';
import { leaveMany } from '@/server/store/write/deferred-targets';
import { bulkCreate } from './bulk-create';
import { refuseEntered } from '@/server/store/sets/refuse-entered';
import { settleCircle } from './settle-circle';
import { columnOf, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import type { Filled } from './types';

export interface RecomputeInput {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly run: string;
  /** Records of one type that were written. */
  readonly written?: {
    readonly type: string;
    /** Other types whose records were written too. */
    readonly also?: readonly string[];
    /** SQL of a query of the parents that those records name, or named before, by a link's key. */
    readonly parents: (link: string) => string;
  };
  /** By rule of a slower pace that has come round: SQL of a query of its targets, `null` for all. */
  readonly due?: ReadonlyMap<string, string | null>;
  /** Goes on in a run of which the engine has worked out the first turns: from where, with what stands, and what types it wrote. */
  readonly rest?: Continuation & { readonly types: readonly string[] };
  /** The settled day turned in this run: rules that make records and mean something else since, with what they meant. */
  readonly turned?: ReadonlyMap<string, CompiledCreate>;
  /** A rule that has had its turn in this run already. */
  readonly done?: string;
  /** Every pace comes round at once, as rehearsals show it. */
  readonly isEveryPace?: boolean;
  readonly tell?: Tell;
  readonly entered?: FillInput['entered'];
  /** Rules that keep a field alone are worked out: nothing reacts, cascades or makes records. */
  readonly isQuiet?: boolean;
}

/**
 * Works out what follows from many written records of one type, or from rules whose pace has come round: their targets, and on from there
 * in the plan's order. Rules of a slower pace that haven't come round are noted for later.
 */
export async function recomputeAfter(input: RecomputeInput): Promise<Filled[]> {
  const { workspace, written, isEveryPace = false, tell = untold } = input;
  const isDeferred = (rule: CompiledRule) => isSlower(rule) && !isEveryPace;
  const filled: Filled[] = [];
  const { rest } = input;
  const touched = new Set([
    ...(written ? [written.type, ...(written.also ?? [])] : []),
    ...(rest?.types ?? []),
  ]);
  const isQuiet = input.isQuiet === true;
  const turns: readonly ScheduleStep[] = isQuiet
    ? quietStepsOf(workspace.plan)
    : scheduleOf(workspace.plan).slice(rest?.from ?? 0);
  const writePrecedence = rest?.writePrecedence ?? new WritePrecedence([], () => false);
  for (const [done, stage] of turns.entries()) {
    tell({ stage: 'rules', done, of: turns.length });
    if (isCircle(stage)) {
      const rules = [...stage.kept, ...stage.reacting].flat();
      if (!rules.some((rule) => isReached(rule, touched))) continue;
      const { transaction, run } = input;
      const settled = await settleCircle({ transaction, workspace, run, touched }, stage);
      for (const { rule, records } of settled) if (records > 0) touched.add(rule.writes.type);
      filled.push(...settled.filter(({ records }) => records > 0));
      continue;
    }
    if (!isStage(stage)) {
      const turned = input.turned?.get(stage.id);
      const isDue = turned !== undefined || isReached(stage, touched) || touched.has(stage.makes);
      if (!isDue || stage.id === input.done) continue;
      const { transaction, run } = input;
      const made = await bulkCreate({
        ...{ transaction, workspace, run, rule: stage, touched },
        ...(turned ? { turned } : {}),
      });
      // It may have written on both sides whatever it made.
      touched.add(stage.writes.type).add(stage.makes);
      if (made > 0) filled.push({ rule: stage, records: made });
      continue;
    }
    const { type } = firstIn(stage).writes;
    const handing = stage.filter(isReactingCascade);
    if (handing.length > 0) {
      const isDue = firstIn(handing).id !== input.done && handing.some((rule) => isReached(rule, touched));
      const counts = isDue ? await bulkCascade({ ...input, parts: handing, writePrecedence }) : [];
      counts.forEach((records, at) => filled.push({ rule: itemAt(handing, at), records }));
      if (counts.some((count) => count > 0)) touched.add(type);
      continue;
    }
    const reached = stage.filter((rule) => isReached(rule, touched));
    const rival = reached.find(
      (rule) => isReacting(rule) && workspace.plan.rules.some((other) => competeForField(other, rule)),
    );
    if (rival && !isQuiet && !input.turned) throw rivalsRefused(rival);
    const sets = [
      { rules: reached.filter((rule) => !isDeferred(rule)), targets: targetsOf(input, reached, touched) },
      ...stage.filter(isDeferred).flatMap((rule) => setsOf(input, rule, reached.includes(rule))),
    ];
    for (const { rules, targets } of sets) {
      if (rules.length === 0) continue;
      await refuseEntered(input, rules);
      const counts = await fillSet(input, rules, targets);
      rules.forEach((rule, at) => filled.push({ rule, records: itemAt(counts, at) }));
      for (const rule of rules)
        if (rule.kind === 'linked' && asksWhich(rule) && !isQuiet) await askWhich({ ...input, rule });
      if (counts.some((count) => count > 0)) touched.add(type);
    }
    for (const rule of reached.filter(isDeferred))
      if (input.due?.has(rule.id) !== true) await leave(input, rule, targetsOf(input, [rule], touched));
  }
  return filled;
}

const isReached = (rule: AnyCompiled, touched: ReadonlySet<string>): boolean =>
  rule.reads.some((read) => touched.has(read.type)) ||
  (rule.kind === 'linked' && rule.among?.reads.some(({ type }) => touched.has(type)) === true) ||
  (rule.rates !== null && touched.has(rule.rates.type)) ||
  (rule.kind !== 'rollUp' && touched.has(rule.writes.type));

interface TargetSet {
  readonly rules: readonly CompiledRule[];
  /** SQL of a query of their ids; left out for all. */
  readonly targets: string | undefined;
}

/** What is worked out of a slower rule: where it has come round, and where its request turned yes. */
function setsOf(
  { due, written, workspace, run }: RecomputeInput,
  rule: CompiledRule,
  isAlsoReached: boolean,
): TargetSet[] {
  const { pace, writes } = rule;
  const targets = due?.get(rule.id);
  // What it reads was written in this run too: which targets that concerns isn't asked.
  if (targets !== undefined)
    return [{ rules: [rule], targets: isAlsoReached ? undefined : (targets ?? undefined) }];
  if (typeof pace === 'string' || pace.kind !== 'onRequest' || pace.field === null) return [];
  if (written?.type !== writes.type) return [];
  const asking = `SELECT id FROM ${tableOf(workspace.schema, writes.type)} WHERE ${columnOf(pace.field)} AND changed_run = ${BigInt(run)}`;
  return [{ rules: [rule], targets: asking }];
}

/** Rules that read what is far up a route, or records that rules changed, are worked out for every target. */
function targetsOf(
  { written }: RecomputeInput,
  rules: readonly CompiledRule[],
  touched: ReadonlySet<string>,
): string | undefined {
  const [first] = rules;
  const link = first && !first.recursion ? singleLink(first) : null;
  if (!written || link?.type !== written.type) return undefined;
  const isDirect = rules.every(
    ({ rates, reads }) =>
      (rates === null || !touched.has(rates.type)) &&
      reads.every((read) => read.type === written.type || !touched.has(read.type)),
  );
  return isDirect ? written.parents(link.link) : undefined;
}

function fillSet(
  { transaction, workspace, run, entered, isQuiet }: RecomputeInput,
  rules: readonly CompiledRule[],
  targets: string | undefined,
): Promise<number[]> {
  return fillRules({
    ...{ transaction, schema: workspace, rules, run, isKept: keepsField(workspace.plan) },
    ...(targets === undefined ? {} : { targets }),
    ...(entered ? { entered } : {}),
    ...(isQuiet ? { acting: 'onNone' as const } : {}),
  });
}

const leave = (
  { transaction, workspace, run }: RecomputeInput,
  rule: CompiledRule,
  targets: string | undefined,
): Promise<void> =>
  leaveMany(transaction, workspace.schema, {
    ...{ rule: rule.id, run },
    ...(targets === undefined ? {} : { targets }),
  });
