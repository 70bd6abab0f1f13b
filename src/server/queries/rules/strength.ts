import { shareOf, type Strength, withDrafts } from '@/core/verify';
import { type Tell, untold } from '@/server/progress';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { searchStrength } from '@/server/workers/strength';
import { readProofsOf } from './proofs';
import { findRule, latestOf } from './rules';

/** How strong the proofs of a rule are, with the ways to change it that none notices and cases that would. */
export interface StrengthView extends Strength {
  readonly rule: { readonly id: string; readonly name: string };
  /** The share of ways to change the rule that a proof notices, in hundredths, rounded down; `null` where there is none that may matter. */
  readonly share: number | null;
}

/** Changes the latest version of a rule in every way that may matter and runs its proofs against each, in a thread of its own. */
export async function strengthOfRule(key: string, id: string, tell: Tell = untold): Promise<StrengthView> {
  const known = await loadWorkspace(key);
  const { workspace, rule, proofs } = await inSnapshot(async (transaction) => {
    const current = await currentWorkspace(transaction, known);
    const latest = latestOf(await findRule(transaction, current.schema, id));
    return { workspace: current, rule: latest, proofs: await readProofsOf(transaction, current, latest.id) };
  });
  const strength = await searchStrength(
    { model: workspace.model, rules: withDrafts(workspace.live, [rule]), rule, proofs },
    ({ phase, done, of }) => tell({ stage: phase, done, of }),
  );
  return { rule: { id: rule.id, name: rule.name }, share: shareOf(strength), ...strength };
}
