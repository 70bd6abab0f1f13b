import { cases } from '@/core/testing/cases';
import { anyCase, type Case } from '@/core/testing/any-case';
import {
  EXHIBITION_ARTEFACTS,
  galleries,
  gbp,
  INSURED_TOTAL,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import type { LeftView } from '@/core/verify';
import type { Edit, WireEdit } from '@/core/engine';
import { fieldIn, type Model } from '@/core/model';
import { toWire } from '@/core/values';
import fc from 'fast-check';
import { rehearseOnData } from '@/server/actions/records/rehearse';
import { saveEdits } from '@/server/actions/records/save-edits';
import { changeState } from '@/server/actions/rules/change-state';
import { Refusal } from '@/server/refusal';
import { endCases, madeOf, saveIn } from '@/server/testing/random';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { leftInRun } from './left-in-run';

afterAll(endCases);

/** By rule, why and records; in which order they stand says nothing. */
const told = (left: readonly LeftView[]): string[] =>
  left
    .flatMap(({ rule, kinds }) =>
      kinds.flatMap(({ why, records }) =>
        records.map(({ id, title }) => `${rule.id} ${id} ${title}: ${why}`),
      ),
    )
    .sort();

const wireOf = (model: Model, edit: Edit): WireEdit =>
  'values' in edit
    ? {
        ...edit,
        values: Object.fromEntries(
          Object.entries(edit.values).map(([key, value]) => [
            key,
            toWire(fieldIn(model, edit.type, key).type, value),
          ]),
        ),
      }
    : edit;

test('whatever was saved since, a run tells what rules left as it was told before it was saved', async () => {
  let count = 0;
  const hold = async (given: Case) => {
    const workspace = await madeOf(given);
    if (!workspace) return;
    try {
      const runs: { readonly run: string; readonly left: readonly LeftView[] }[] = [];
      for (const edits of given.saves) {
        const rehearsed = await rehearseOnData({
          ...{ workspace: workspace.key, person: TESTER.id, drafts: [] },
          edits: edits.map((edit) => wireOf(given.model, edit)),
        }).catch((error: unknown) => {
          if (error instanceof Refusal) return null;
          throw error;
        });
        const { run } = await saveIn(workspace, edits);
        if (run !== null && rehearsed) runs.push({ run, left: rehearsed.ripple.left });
      }
      for (const { run, left } of runs) {
        const found = await leftInRun(await workspace.load(), run);
        expect(found.untold).toBeNull();
        expect(told(found.left)).toEqual(told(left));
        count += left.length;
      }
    } finally {
      await workspace.remove();
    }
  };
  await fc.assert(fc.asyncProperty(anyCase, hold), { numRuns: cases(18), endOnFailure: true });
  expect(count).toBeGreaterThan(cases(6));
}, 600_000);

describe('a run of a workspace that went on', () => {
  const model = galleries();
  const [silk, maps] = [uuid('11'), uuid('12')];
  const loan = (end: string, stage: string) =>
    rowOf(model, 'loan', uuid(end), { exhibition: silk, stage, insuredValue: gbp(100) });
  let workspace: TestWorkspace;
  beforeAll(async () => {
    workspace = await testWorkspace({
      model,
      rules: [ruleOf(INSURED_TOTAL, 1, 'Total'), ruleOf(EXHIBITION_ARTEFACTS, 2, 'Artefacts')],
      rows: [
        rowOf(model, 'exhibition', silk, { title: 'Silk' }),
        rowOf(model, 'exhibition', maps, { title: 'Maps' }),
        loan('21', 'agreed'),
        loan('22', 'declined'),
      ],
    });
  });
  afterAll(() => workspace.remove());
  const by = () => ({ workspace: workspace.key, person: TESTER.id });
  const edit = async (end: string, values: Record<string, unknown>) =>
    (await saveEdits({ ...by(), edits: [{ kind: 'edit', type: 'loan', id: uuid(end), values }] })).run!;
  const leftOf = async (run: string) => {
    const { left } = await leftInRun(await workspace.load(), run);
    return left.flatMap(({ rule, kinds }) =>
      kinds.map(({ why, records }) => `${rule.name}: ${records.map(({ title }) => title).join()} ${why}`),
    );
  };
  const DECLINED = 'Total: Silk what changed doesn’t count: fails “Stage is Agreed”: here Declined';

  test('what is edited, moved or deleted since, and rules that are paused, change nothing of what was left', async () => {
    const run = await edit('22', { insuredValue: { amount: '50', currency: 'GBP' } });
    expect(await leftOf(run)).toEqual([DECLINED]);
    await edit('22', { stage: 'agreed' });
    await edit('22', { exhibition: maps });
    await saveEdits({ ...by(), edits: [{ kind: 'delete', type: 'loan', id: uuid('22') }] });
    await saveEdits({
      ...by(),
      edits: [{ kind: 'edit', type: 'exhibition', id: silk, values: { title: 'Thread' } }],
    });
    const [total] = workspace.rules;
    await changeState({ ...by(), id: total!, state: 'paused' });
    expect(await leftOf(run)).toEqual([DECLINED]);
    const later = await edit('21', { stage: 'declined' });
    expect(await leftOf(later)).toEqual([]);
    await changeState({ ...by(), id: total!, state: 'live' });
    expect(await leftOf(later)).toEqual([]);
    expect(await leftOf(await edit('21', { weight: '2.5' }))).toEqual([]);
    expect(await leftOf(await edit('21', { insuredValue: { amount: '7', currency: 'GBP' } }))).toEqual([
      DECLINED.replace('Silk', 'Thread'),
    ]);
  });
});
