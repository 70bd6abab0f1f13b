import { runWith, type WireEdit } from '@/core/engine';
import type { Rule, RuleDefinition } from '@/core/rules';
import {
  leftAsIs,
  type LeftContext,
  type LeftView,
  MOST_TOUCHED,
  type Rehearsal,
  rehearsalView,
  rehearsing,
  type RippleView,
} from '@/core/verify';
import { v7 as newId } from 'uuid';
import type { Transaction } from 'sequelize';
import { checkPerson } from '@/server/queries/workspaces/people';
import { Refusal } from '@/server/refusal';
import { refuseEdits, refuseRules } from './saving/refuse-edits';
import { loadLooked } from '@/server/store/run/load-looked';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import { runContextNow } from '@/server/store/write/run-context';
import { isCancelled, run } from '@/server/store/sql/sql';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { inSnapshot } from '@/server/store/session/transactions';

export interface RehearseInput {
  readonly workspace: string;
  readonly edits: readonly WireEdit[];
  /** Rules that take part although they aren't live; one with the id of a live rule stands in for it. */
  readonly drafts: readonly {
    readonly id?: string;
    readonly name?: string;
    readonly definition: RuleDefinition;
  }[];
  /** Who would make the edits; left out, nobody is named. */
  readonly person?: string | null;
}

/** Seconds that a statement of a rehearsal may take. */
const LIMIT = 20;

/**
 * Runs edits, and drafts, through the rules on the real data as it stands, and tells what would happen. Saves nothing, locks nothing. Refuses what
 * goes beyond a run's budget of records, and what takes too long.
 */
export async function rehearseOnData(input: RehearseInput): Promise<Done> {
  const known = await loadWorkspace(input.workspace);
  try {
    return await inSnapshot(async (transaction) => {
      await run(transaction, `SET LOCAL statement_timeout = ${LIMIT * 1_000}`);
      return rehearseIn(transaction, known, input);
    });
  } catch (error) {
    if (!isCancelled(error)) throw error;
    throw new Refusal(
      422,
      'rehearsal.time',
      `The rehearsal took more than ${LIMIT} seconds on the real data and was stopped; nothing was saved. Stage less at a time, or try it on a sample family.`,
    );
  }
}

type Done = Extract<Rehearsal, { kind: 'done' }>;

/** The same in a transaction that only looks. */
export async function rehearseIn(
  transaction: Transaction,
  known: LoadedWorkspace,
  input: RehearseInput,
): Promise<Done> {
  const workspace = await currentWorkspace(transaction, known);
  const { model, live, people } = workspace;
  const { person = null } = input;
  if (person !== null) checkPerson(workspace, person);
  const drafts = input.drafts.map(({ id, name, definition }, index): Rule => {
    return { id: id ?? newId(), version: newId(), name: name ?? `Draft ${index + 1}`, definition };
  });
  const driver = new SnapshotDriver(workspace, transaction);
  const facts = runContextNow(person);
  const rehearsingRun = rehearsing({
    model,
    live,
    drafts,
    edits: input.edits,
    people: new Set(people.keys()),
    facts,
    newId,
  });
  const rehearsed = await runWith((need) => driver.answer(need), rehearsingRun);
  if (rehearsed.kind === 'done') {
    const changes = [...(rehearsed.filled?.changes ?? []), ...rehearsed.ripple.changes];
    for (const change of changes) {
      const type = model.field(change.type, change.field)?.type;
      if (type?.kind !== 'link') continue;
      await driver.load(
        type.target,
        [change.before, change.after].filter((id) => typeof id === 'string'),
      );
    }
  }
  const names = Object.fromEntries(people);
  const rehearsal = rehearsalView(model, rehearsed, driver.overlay, names);
  if (rehearsal.kind === 'refused') throw refuseEdits(rehearsal.edits);
  if (rehearsal.kind === 'unsound') throw refuseRules(rehearsal.rules);
  if (rehearsed.kind !== 'done') return rehearsal;
  const looked = { model, plan: rehearsed.plan, store: driver.overlay, before: driver.stored, names, facts };
  const left = await leftIn(driver, looked, rehearsal.ripple);
  return { ...rehearsal, ripple: { ...rehearsal.ripple, left } };
}

/** What rules left; nothing is told of it where a rehearsal would have to load too much for it. */
async function leftIn(
  driver: SnapshotDriver,
  context: LeftContext,
  ripple: RippleView,
): Promise<readonly LeftView[]> {
  const changes = ripple.waves.flatMap((wave) => wave.changes);
  if (changes.length > MOST_TOUCHED) return [];
  try {
    await loadLooked(driver, context, changes);
  } catch (error) {
    if (error instanceof Refusal && error.code === 'rehearsal.size') return [];
    throw error;
  }
  return leftAsIs(context, ripple);
}
