import { type Edit, type EditProblem, propagate, type RunOutcome, runWith } from '@/core/engine';
import { buildPlan } from '@/core/plan';
import { isReactingCascade, isReacting } from '@/core/rules';
import { certain } from '@/core/values';
import type { Case } from '@/core/testing/any-case';
import { disconnect } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { goOn } from '@/server/actions/records/save-edits';
import { boundsNow } from '@/server/store/session/bounds';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { inSave } from '@/server/store/session/transactions';
import { v7 as newId } from 'uuid';
import { Idle, TESTER, type TestWorkspace, testWorkspace } from './workspace';

/** A run that is refused is taken back, whatever it has written until then. */
class Refused extends Error {
  constructor(readonly outcome: RunOutcome) {
    super('refused');
  }
}

/** Saves edits that were read already; what is left to sets goes on as in any save. */
export async function saveIn(
  workspace: TestWorkspace,
  edits: readonly Edit[],
): Promise<RunOutcome & { readonly run: string | null }> {
  try {
    return await inSave(
      workspace.key,
      () => false,
      async ({ workspace: loaded, transaction, isAlone }) => {
        const driver = new PostgresDriver(loaded, transaction, { kind: 'save', person: TESTER.id }, isAlone);
        const { model, plan } = loaded;
        const bounds = boundsNow();
        const outcome = await runWith(
          (need) => driver.answer(need),
          propagate({ model, plan, edits, newId, isAlone, stopsForBulk: isAlone, bounds }),
        );
        if (outcome.kind === 'refused') throw new Refused(outcome);
        const run = await driver.finish();
        if (outcome.rest)
          await goOn({ workspace: loaded, transaction, run: certain(run) }, outcome.ripple, outcome.rest);
        return { ...outcome, run };
      },
    );
  } catch (error) {
    if (error instanceof Refused) return { ...error.outcome, run: null };
    // What is refused of sets, by their number.
    if (error instanceof Refusal) {
      const problem = { code: error.code, index: 0, message: error.message } as EditProblem;
      return { kind: 'refused', problems: [problem], run: null };
    }
    throw error;
  }
}

/**
 * A case whose rules go live one after another as if all at once: each after those that it reads, and those that react last, since
 * filling another would move them.
 */
function oneByOne(given: Case): Case {
  const { rules } = buildPlan(given.model, given.rules).plan;
  const place = (id: string) =>
    rules.findIndex((rule) => rule.id === id) +
    (rules.some((rule) => rule.id === id && (isReacting(rule) || isReactingCascade(rule)))
      ? rules.length
      : 0);
  return { ...given, rules: [...given.rules].sort((a, b) => place(a.id) - place(b.id)) };
}

const idle = new Idle();

/** After all cases of a file. */
export async function endCases(): Promise<void> {
  await idle.remove();
  await disconnect();
}

/** A workspace for a case; none where a rule that reacts can't go live, since what it reads has a problem already. */
export async function madeOf(given: Case): Promise<TestWorkspace | null> {
  try {
    return await testWorkspace(oneByOne(given), idle);
  } catch (error) {
    if (error instanceof Refusal && error.code === 'rule.reaction') return null;
    throw error;
  }
}
