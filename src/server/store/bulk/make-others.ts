import { makeAfter, type Ripple, runWith } from '@/core/engine';
import type { RunContext } from '@/core/expression';
import type { CompiledCreate } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { refuse } from '@/server/refusal';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
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

/** What a rule makes, or proposes, for records for which it is asked, in a run that goes on. */
export async function makeOthers(
  input: MakingOthers,
  run: string,
  asked: readonly string[],
): Promise<{ readonly made: number; readonly proposed: number }> {
  if (asked.length === 0) return { made: 0, proposed: 0 };
  const { model, plan } = input.workspace;
  const driver = goingOn(input, run);
  const outcome = await runWith(
    (need) => driver.answer(need),
    makeAfter({
      ...{ model, plan, rule: input.rule, touched: new Map(), edits: [], asked, newId },
      facts: input.facts,
    }),
  );
  if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
  await driver.finish();
  return countsOf(outcome.ripple);
}

/** How many records rules made in a run, and how many proposals wait for a person. */
export const countsOf = ({
  events,
  proposals,
}: Ripple): { readonly made: number; readonly proposed: number } => ({
  made: events.filter(({ kind, rule }) => kind === 'created' && rule !== undefined).length,
  proposed: proposals.filter(({ isDone }) => !isDone).length,
});
