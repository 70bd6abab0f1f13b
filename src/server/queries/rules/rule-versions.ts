import { compileRule, type Pilot, pilotWords, type RuleDefinition, sentenceOf } from '@/core/rules';
import type { RuleVersionView } from '@/core/api';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { findRule, pilotTitles } from './rules';
import { instantSql, personName } from '@/server/queries/run-head';

interface Stored {
  readonly id: string;
  readonly number: number;
  readonly definition: RuleDefinition;
  readonly person: string | null;
  readonly made_at: string;
}

interface TakenLive {
  readonly version: string;
  readonly at: string;
  readonly person: string | null;
  readonly proofs: number;
  readonly held: number;
  readonly reason: string | null;
  readonly pilot: Pilot | null;
}

/** A rule's versions, the newest first, with when each was taken live. One that doesn't fit the model any more has its name for a sentence. */
export async function ruleVersions(key: string, id: string): Promise<RuleVersionView[]> {
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const rule = await findRule(transaction, workspace.schema, id);
    const s = quote(workspace.schema);
    const versions = await run<Stored>(
      transaction,
      `SELECT id::text, number, definition, person::text, ${instantSql('created_at')} AS made_at
        FROM ${s}._rule_version WHERE rule = $1 ORDER BY number DESC`,
      [rule.id],
    );
    const taken = await run<TakenLive>(
      transaction,
      `SELECT t.version::text, ${instantSql('r.at')} AS at, t.person::text, t.proofs, t.held, t.reason, t.pilot
        FROM ${s}._taken_live t JOIN ${s}._run r ON r.id = t.run WHERE t.rule = $1 ORDER BY t.id DESC`,
      [rule.id],
    );
    const pilots = taken.map(({ pilot }) => ({ pilot, definition: rule.definition }));
    const titles = await pilotTitles(transaction, workspace, pilots);
    return versions.map(({ id: version, number, definition, person, made_at: madeAt }) => {
      const compiled = compileRule(workspace.model, { id: rule.id, version, name: rule.name, definition });
      const nameOf = (one: string) => workspace.people.get(one);
      return {
        ...{ id: version, number, definition, madeAt, person: personName(workspace, person) },
        sentence: compiled.ok ? sentenceOf(workspace.model, compiled.rule, nameOf) : rule.name,
        ...{ isLatest: version === rule.latest_version, isLive: version === rule.live_version },
        isTried: version === rule.pilot_version,
        takenLive: taken
          .filter((one) => one.version === version)
          .map(({ at, person: by, proofs, held, reason, pilot }) => ({
            ...{ at, person: personName(workspace, by), proofs, held, reason },
            pilot: pilot && pilotWords(workspace.model, pilot, titles),
          })),
      };
    });
  });
}
