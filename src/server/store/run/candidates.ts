import { type Answers, type ChangedPage, whichOf } from '@/core/engine';
import type { CompiledLinked } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { keepsField } from '@/server/store/write/keeps-field';
import { candidatesSql } from '@/server/store/rule-sql/link-sql';
import { proposalsSql } from '@/server/store/write/created-records';
import { Binds, run } from '@/server/store/sql/sql';
import { ALL_MADE, touchedInRun } from '@/server/store/sets/touched-in-run';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Of these records, or of all, those whose link is empty although a rule finds several for it, with what it finds. */
export async function readCandidates(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: CompiledLinked,
  ids: readonly string[],
): Promise<Answers['candidates']> {
  const binds = new Binds();
  const targets = binds.add(ids, 'uuid[]');
  const isKept = keepsField(workspace.plan);
  const sql = candidatesSql({ schema: workspace, rules: [rule], binds, isKept, targets }, rule);
  const found = await run<{ id: string; found: string[] }>(transaction, sql, binds.values);
  return new Map(found.map((row) => [row.id, row.found]));
}

const PAGE = 2_000;

export interface AskWhich {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  /** The run that made or changed many records. */
  readonly run: string;
  readonly rule: CompiledLinked;
}

/** After a run over many records, asks which of several a link should name, for those that it made or changed. */
export async function askWhich({ transaction, workspace, run: runId, rule }: AskWhich): Promise<void> {
  const { type } = rule.writes;
  for (let after: string | null = ''; after !== null;) {
    const { touched, next }: ChangedPage = await touchedInRun(transaction, workspace, {
      ...{ run: runId, type, watched: null, made: ALL_MADE, after, most: PAGE },
    });
    after = next;
    const ids = touched.map(({ id }) => id);
    const found =
      ids.length > 0 ? await readCandidates(transaction, workspace, rule, ids) : new Map<string, string[]>();
    const proposals = [...found].map(([id, candidates]) =>
      whichOf(rule, id, candidates, { causes: [{ type, id, field: '' }], wave: 1 }),
    );
    if (proposals.length > 0) {
      const binds = new Binds();
      const at = `run AS (SELECT ${binds.add(runId, 'bigint')} AS id)`;
      const parts = [at, ...proposalsSql(workspace, { proposals, withdrawn: [] }, binds)];
      await run(transaction, `WITH ${parts.join(',\n')} SELECT 1 FROM run`, binds.values);
    }
  }
}
