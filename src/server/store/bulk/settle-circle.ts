import { certain, writeCount } from '@/core/values';
import { type Circle, type Edit, runWith, settleAfter, type Touched } from '@/core/engine';
import { isReactingCascade } from '@/core/rules';
import { refuse, Refusal } from '@/server/refusal';
import type { Filled } from './types';
import { goingOn, type BulkCreate } from './bulk-create';
import { contextOfRun } from '@/server/store/write/run-context';
import { ALL_MADE, touchedInRun } from '@/server/store/sets/touched-in-run';

/** Most records that changed from which rules in a circle go on together. */
const MOST_TOGETHER = 20_000;

/**
 * What rules in a circle come to after a run over many records, as an import or an edit of a list: the engine goes round from all that changed,
 * in the same run; nobody else saves meanwhile. Refuses more than are settled together.
 */
export async function settleCircle(
  { transaction, workspace, run, touched: types }: Omit<BulkCreate, 'rule' | 'turned'>,
  circle: Circle,
): Promise<Filled[]> {
  const rules = [...circle.kept, ...circle.reacting].flat();
  const read = new Set(
    rules.flatMap((rule) => [
      ...rule.reads.map(({ type }) => type),
      rule.writes.type,
      ...(isReactingCascade(rule) ? [rule.source] : []),
    ]),
  );
  const touched = new Map<string, Touched>();
  const edits: Edit[] = [];
  for (const type of [...types].filter((one) => read.has(one))) {
    const page = await touchedInRun(transaction, workspace, {
      ...{ run, type, after: '', most: MOST_TOGETHER + 1, watched: null, isGoneTold: true, made: ALL_MADE },
    });
    for (const entry of page) touched.set(`${type} ${entry.id}`, entry);
    if (touched.size > MOST_TOGETHER) {
      const names = [...new Set(rules.map(({ name }) => `“${name}”`))].join(', ');
      const message = `${names} run in a circle, and more than ${writeCount(MOST_TOGETHER)} records changed from which they would go on. Nothing was saved; send them in parts, or pause one of the rules.`;
      throw new Refusal(422, 'run.circle', message);
    }
    for (const { id, written, after } of page)
      edits.push({
        ...{ kind: 'edit', type, id },
        values: Object.fromEntries(written.map((field) => [field, certain(after).values[field] ?? null])),
      });
  }
  const made = new Set([...touched].flatMap(([key, { before }]) => (before === null ? [key] : [])));
  const driver = goingOn({ transaction, workspace }, run, made);
  for (const { after } of touched.values()) if (after) driver.know(after);
  const outcome = await runWith(
    (need) => driver.answer(need),
    settleAfter({
      ...{ model: workspace.model, circle, touched, edits },
      facts: await contextOfRun(transaction, workspace, run),
    }),
  );
  if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
  await driver.finish();
  const { changes } = outcome.ripple;
  return rules.map((rule) => {
    const isIts = (change: (typeof changes)[number]) =>
      change.rule === rule.id && change.field === rule.writes.field;
    return { rule, records: new Set(changes.filter(isIts).map(({ id }) => id)).size };
  });
}
