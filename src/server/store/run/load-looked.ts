import { affectedTargets, type Need, type Row, runWith, type Touched, walkRoute } from '@/core/engine';
import { typeAlong } from '@/core/model';
import { type CompiledRollUp, isCreate, isSlower } from '@/core/rules';
import { type ChangeView, isCascade, type LeftContext, rowsAlong, sourcesOf, touchedIn } from '@/core/verify';
import type { SnapshotDriver } from './snapshot-driver';

/** Loads what `leftAsIs` goes over: what each rule works out again, or leads to, and what it reads of that. */
export async function loadLooked(
  driver: SnapshotDriver,
  context: LeftContext,
  changes: readonly ChangeView[],
): Promise<void> {
  const { model, plan, store } = context;
  const touched = touchedIn(context, changes);
  const answer = (need: Need) => driver.answer(need);
  for (const rule of plan.turns) {
    if (isCreate(rule)) continue;
    if (isCascade(rule)) {
      const { type, route, isAllTheWay } = rule.definition;
      const sources = sourcesOf(context, rule, changes);
      await driver.load(type, [...sources]);
      const walked = walkRoute(model, { source: type, route, isAllTheWay }, sources, rowsAlong);
      const reached = [...(await runWith(answer, walked)).keys()];
      await driver.load(typeAlong(model, type, route), reached);
      await driver.loadInputs(rule, reached);
      continue;
    }
    if (isSlower(rule)) continue;
    const { targets } = await runWith(answer, affectedTargets(model, rule, touched));
    const ids = [...targets.keys()];
    await driver.load(rule.writes.type, ids);
    if (rule.kind !== 'rollUp') await driver.loadInputs(rule, ids);
    else {
      const rows = ids.flatMap((id) => store.row(rule.writes.type, id) ?? []);
      await driver.loadOwn(rule, rows);
      await loadMembers(driver, rule, touched);
    }
  }
}

/** Of a roll-up what the records that changed read, as they stood before and after: all its other members needn't be there. */
async function loadMembers(
  driver: SnapshotDriver,
  rule: CompiledRollUp,
  touched: ReadonlyMap<string, Touched>,
): Promise<void> {
  for (const source of rule.sources) {
    const members = [...touched.values()].filter(({ type }) => type === source.type);
    for (const rows of [members.map(({ before }) => before), members.map(({ after }) => after)])
      await driver.loadAround(
        rule,
        source,
        rows.filter((row): row is Row => row !== null),
      );
  }
}
