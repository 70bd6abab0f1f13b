import { makeAfter, type Ripple, runWith } from '@/core/engine';
import type { RunContext } from '@/core/expression';
import type { CompiledCreate } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { refuse } from '@/server/refusal';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { boundsNow } from '@/server/store/session/bounds';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Writes on in a run that is written already; records that it made aren't copied into the ledger. */
const goingOn = ({ transaction, workspace }: MakingOthers, run: string): PostgresDriver =>
  new PostgresDriver(workspace, transaction, { kind: 'save', person: null }, true, undefined, {
    ...{ run, made: new Set<string>() },
  });

interface MakingOthers {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly rule: CompiledCreate;
  readonly facts: RunContext;
}

/** What a rule makes, or proposes, for records for which it is asked, in a run that goes on: a page of them at a time. */
export async function makeOthers(
  input: MakingOthers,
  run: string,
  asked: readonly string[],
): Promise<{ readonly made: number; readonly proposed: number }> {
  const { model, plan } = input.workspace;
  let [made, proposed] = [0, 0];
  const { page } = boundsNow();
  for (let at = 0; at < asked.length; at += page) {
    const driver = goingOn(input, run);
    const outcome = await runWith(
      (need) => driver.answer(need),
      makeAfter({
        ...{ model, plan, rule: input.rule, touched: new Map(), edits: [], newId },
        ...{ asked: asked.slice(at, at + page), facts: input.facts },
      }),
    );
    if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
    await driver.finish();
    const counts = countsOf(outcome.ripple);
    made += counts.made;
    proposed += counts.proposed;
  }
  return { made, proposed };
}

/** How many records rules made in a run, and how many proposals wait for a person. */
export const countsOf = ({
  events,
  proposals,
}: Ripple): { readonly made: number; readonly proposed: number } => ({
  made: events.filter(({ kind, rule }) => kind === 'created' && rule !== undefined).length,
  proposed: proposals.filter(({ isDone }) => !isDone).length,
});
