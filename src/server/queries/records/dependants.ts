import { dependantsOf, runWith } from '@/core/engine';
import { typeIn } from '@/core/model';
import type { DependantView } from '@/core/api';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace } from '@/server/store/session/workspace';
import { findRow } from './records';
import { readTitles, Wanted } from '@/server/store/session/titles';

const MOST_NAMED = 5;

/** Which records may change when this one does, by which rules; also at second hand. */
export function getDependants(known: LoadedWorkspace, type: string, id: string): Promise<DependantView[]> {
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const { model, plan } = workspace;
    const row = await findRow(transaction, workspace, type, id);
    const driver = new PostgresDriver(workspace, transaction, { kind: 'save', person: null });
    const followers = await runWith((need) => driver.answer(need), dependantsOf(model, plan, row));
    const wanted = new Wanted();
    for (const { rule, targets } of followers)
      for (const target of targets.slice(0, MOST_NAMED)) wanted.add(rule.writes.type, target);
    const titles = await readTitles(transaction, workspace, wanted);
    return followers.map(({ rule, targets }) => ({
      rule: { id: rule.id, name: rule.name, kind: rule.definition.kind },
      ...{ type: rule.writes.type, typeName: typeIn(model, rule.writes.type).name, count: targets.length },
      ...{ field: rule.target.key, fieldName: rule.target.name },
      targets: targets
        .slice(0, MOST_NAMED)
        .map((target) => ({ id: target, title: titles[target] ?? target })),
    }));
  });
}
