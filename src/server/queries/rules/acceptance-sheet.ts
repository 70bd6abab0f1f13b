import { firstIn } from '@/core/values';
import { grouped } from '@/core/grouped';
import { compileRule, sentenceOf } from '@/core/rules';
import { findingsAmong, PlannedRules, describeProof, withDrafts } from '@/core/verify';
import { type AcceptanceSheet, type SheetRule } from '@/core/api';
import type { Transaction } from 'sequelize';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { inSlices } from '@/server/slices';
import { readProofs } from './proofs';
import { requestView } from './requests';
import { findRule, latestOf } from './rules';
import { instantSql, personName } from '@/server/queries/run-head';

/** All that shows whether a request is met: its rules as sentences, their proofs as cases with before and after, and what the review found. */
export async function acceptanceSheet(key: string, id: string): Promise<AcceptanceSheet> {
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const request = await requestView(transaction, workspace, id);
    const proofs = grouped(await readProofs(transaction, workspace), ({ rule }) => rule);
    const rules: SheetRule[] = [];
    for (const requested of request.rules) {
      const stored = await findRule(transaction, workspace.schema, requested.id);
      const rule = latestOf(stored);
      const planned = new PlannedRules(withDrafts(workspace.live, [rule]));
      const nameOf = (one: string) => workspace.people.get(one);
      const compiled = compileRule(workspace.model, rule);
      const others = workspace.live.filter((one) => one.id !== rule.id);
      const { problems, review } = findingsAmong(workspace.model, others, rule);
      rules.push({
        ...{ ...requested, note: stored.note },
        sentence: compiled.ok ? sentenceOf(workspace.model, compiled.rule, nameOf) : rule.name,
        told: await inSlices(proofs.get(rule.id) ?? [], (proof) =>
          describeProof(workspace.model, planned, proof, nameOf),
        ),
        findings: [...problems.map(({ message }) => message), ...review.map(({ why }) => why)],
        ...(await versionOf(transaction, workspace, rule.id)),
      });
    }
    return {
      ...{ workspace: workspace.name, settledDay: workspace.settledDay, at: new Date().toISOString() },
      ...{ request, rules },
    };
  });
}

async function versionOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: string,
): Promise<Pick<SheetRule, 'number' | 'takenLive'>> {
  const s = quote(workspace.schema);
  const latest = firstIn(
    await run<{ number: number }>(
      transaction,
      `SELECT v.number FROM ${s}._rule r JOIN ${s}._rule_version v ON v.id = r.latest_version WHERE r.id = $1`,
      [rule],
    ),
  );
  const [taken] = await run<{ at: string; person: string | null; reason: string | null }>(
    transaction,
    `SELECT ${instantSql('n.at')} AS at, t.person::text, t.reason
      FROM ${s}._taken_live t JOIN ${s}._run n ON n.id = t.run JOIN ${s}._rule r ON r.live_version = t.version
      WHERE r.id = $1 ORDER BY t.id DESC LIMIT 1`,
    [rule],
  );
  return {
    number: latest.number,
    takenLive: taken ? { ...taken, person: personName(workspace, taken.person) } : null,
  };
}
