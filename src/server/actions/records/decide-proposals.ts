import type { ProposalDecided } from '@/core/api';
import type { Transaction } from 'sequelize';
import { editOf, findProposal, type StoredProposal } from '@/server/queries/today/proposals';
import { checkProposalSeen } from '@/server/queries/today/proposals-seen';
import { refusalSeen } from '@/server/queries/records/refusal-seen';
import { checkEditsSeen } from '@/server/queries/records/seen-part';
import { Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import { inSave } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { checkPerson } from '@/server/queries/workspaces/people';
import { saveEdits } from './save-edits';
import { database } from '@/server/database/connection';
import type { Decision } from '@/server/forms/types';

export interface DecideInput {
  readonly workspace: string;
  /** The workspace as whoever decides sees it, where that is a part: of more they decide nothing. */
  readonly seen?: LoadedWorkspace | null;
  readonly person: string;
  readonly decisions: readonly Decision[];
}

/** Decides proposals one by one, each in a run of its own; one that can't be done stays open and says why. */
export async function decideProposals({
  workspace,
  person,
  decisions,
  seen = null,
}: DecideInput): Promise<ProposalDecided[]> {
  const loaded = await loadWorkspace(workspace);
  checkPerson(loaded, person);
  const decided: ProposalDecided[] = [];
  for (const one of decisions) {
    try {
      if (seen) await checkSeen(loaded, seen, one);
      const runId =
        one.decision === 'approve'
          ? await approve(workspace, person, one)
          : await close(workspace, person, one);
      decided.push({ id: one.id, run: runId, problem: null });
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      const { code, message, parts } = seen?.sight ? refusalSeen(error, seen.sight) : error;
      decided.push({
        id: one.id,
        run: null,
        problem: { code, message: parts[0]?.message ?? message, place: parts[0]?.place ?? '' },
      });
    }
  }
  return decided;
}

/** Refuses what somebody doesn't see, and what they would change about it that they may not. */
async function checkSeen(loaded: LoadedWorkspace, seen: LoadedWorkspace, one: Decision): Promise<void> {
  const proposal = await database().transaction(async (transaction) => {
    await checkProposalSeen(transaction, loaded, seen, one.id);
    return findProposal(transaction, loaded, one.id);
  });
  if (one.decision === 'approve') await checkEditsSeen(seen, [editOf(proposal, one.values)]);
}

/** The save does what was proposed and closes the proposal, or neither. */
async function approve(
  workspace: string,
  person: string,
  { id, values = {} }: Extract<Decision, { decision: 'approve' }>,
): Promise<string | null> {
  const loaded = await loadWorkspace(workspace);
  const proposal = await database().transaction((transaction) => findProposal(transaction, loaded, id));
  checkOpen(proposal, 'open');
  const saved = await saveEdits({
    ...{ workspace, person, edits: [editOf(proposal, values)] },
    note: `Approved: ${proposal.rule_name}`.slice(0, 500),
    along: {
      before: async (transaction, current) => checkOpen(await findProposal(transaction, current, id), 'open'),
      after: (transaction, { schema }, runId) =>
        decide(transaction, schema, { id, person, state: 'approved', run: runId, reason: null }),
    },
  });
  return saved.run;
}

async function close(
  workspace: string,
  person: string,
  one: Exclude<Decision, { decision: 'approve' }>,
): Promise<null> {
  await inSave(
    workspace,
    () => false,
    async ({ workspace: current, transaction, begun }) => {
      await begun;
      const isRefusal = one.decision === 'refuse';
      checkOpen(await findProposal(transaction, current, one.id), isRefusal ? 'open' : 'told');
      await decide(transaction, current.schema, {
        ...{ id: one.id, person, run: null },
        ...{ state: isRefusal ? 'refused' : 'seen', reason: isRefusal ? one.reason : null },
      });
    },
  );
  return null;
}

function checkOpen({ state, rule_name }: StoredProposal, wanted: 'open' | 'told'): void {
  if (state === wanted) return;
  const message =
    state === 'told'
      ? `What “${rule_name}” did is done already: it asks for no approval.`
      : wanted === 'told' && state === 'open'
        ? `“${rule_name}” waits for approval: approve or refuse it.`
        : `This proposal of “${rule_name}” was decided meanwhile. Reload to see how.`;
  throw new Refusal(409, 'proposal.decided', message);
}

interface Decided {
  readonly id: string;
  readonly person: string;
  readonly state: 'approved' | 'refused' | 'seen';
  readonly run: string | null;
  readonly reason: string | null;
}

const decide = (
  transaction: Transaction,
  schema: LoadedWorkspace['schema'],
  { id, person, state, run: runId, reason }: Decided,
): Promise<unknown> =>
  run(
    transaction,
    `UPDATE ${quote(schema)}._proposal SET state = $2, decided_by = $3, decided_at = clock_timestamp(), decided_run = $4, reason = $5 WHERE id = $1`,
    [id, state, person, runId, reason],
  );
