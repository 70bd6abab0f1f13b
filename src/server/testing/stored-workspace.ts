import type { WireEdit } from '@/core/engine';
import type { Formula, LinkRule, RollUp, RuleDefinition } from '@/core/rules';
import { rowOf, uuid } from '@/core/testing/galleries';
import { inspections, LINE, TREATMENT } from '@/core/testing/inspections';
import { numbered } from '@/core/testing/rule-desk';
import { cascade, down, from, when } from '@/core/testing/touring';
import { saveEdits } from '@/server/actions/records/save-edits';
import { addList, savedLists } from '@/server/actions/records/saved-lists';
import { keepProof } from '@/server/actions/rules/proofs';
import { addRequest } from '@/server/actions/rules/requests';
import { keepFamily, sampleFamilies } from '@/server/actions/rules/sample-families';
import { listRuns } from '@/server/queries/ledger/runs';
import { getHistory } from '@/server/queries/ledger/history';
import { getExplanation } from '@/server/queries/records/explanation';
import { getFamily } from '@/server/queries/records/family';
import { listRecords } from '@/server/queries/records/list-records';
import { listRules } from '@/server/queries/rules/rules';
import { proofsOf } from '@/server/queries/rules/proofs';
import { requestViews } from '@/server/queries/rules/requests';
import { listProposals } from '@/server/queries/today/proposals';
import { loadWorkspace } from '@/server/store/session/workspace';
import { TESTER, type TestWorkspace, testWorkspace } from './workspace';

const [vase, robe, check] = [uuid('11'), uuid('12'), uuid('21')];

const COUNT: RollUp = {
  ...{
    kind: 'rollUp',
    type: 'artefact',
    target: 'treatments',
    aggregate: 'count',
    value: null,
    whenNone: '0',
  },
  ...{ route: [down('treatment', 'artefact')], condition: null, rounding: null, pace: 'withTheSave' },
};
const WORTH: Formula = {
  ...{ kind: 'formula', type: 'artefact', target: 'worth', appliesWhen: null, otherwise: null },
  ...{ value: { kind: 'feel', text: '100 - treatments * 10' }, rounding: null, pace: 'withTheSave' },
};
const REMARK = cascade({
  ...{ type: 'artefact', route: [down('inspection', 'artefact')], assignments: [from('remark', 'maker')] },
  moment: when({ kind: 'changed', field: 'maker' }),
});
const ARTEFACT: LinkRule = {
  ...{
    kind: 'link',
    type: 'treatment',
    target: 'artefact',
    appliesWhen: null,
    holds: 'whereEmpty',
    none: 'leave',
  },
  find: { kind: 'route', route: ['inspection', 'artefact'], topmost: null, whenNoneAbove: 'empty' },
  pace: 'withTheSave',
};
const RULES: readonly RuleDefinition[] = [
  ...[COUNT, WORTH, REMARK, ARTEFACT, { ...LINE, returning: 'not' as const }],
  { ...TREATMENT, assignments: TREATMENT.assignments.filter(({ target }) => target !== 'artefact') },
];

/** A small workspace with a rule of each kind, proofs, a request, a list, a family, proposals and a few runs: what a version stores. */
export async function makeStoredWorkspace(): Promise<TestWorkspace> {
  const model = inspections();
  const workspace = await testWorkspace({
    ...{ model, rules: numbered(RULES) },
    rows: [
      rowOf(model, 'artefact', vase, { title: 'Vase', sort: 'tool', maker: 'Ash' }),
      rowOf(model, 'inspection', check, {
        title: 'Arrival',
        artefact: vase,
        outcome: 'watch',
        byPhoto: false,
      }),
    ],
  });
  const by = { workspace: workspace.key, person: TESTER.id };
  const save = (...edits: WireEdit[]) => saveEdits({ ...by, edits });
  await save({ kind: 'edit', type: 'inspection', id: check, values: { outcome: 'damage' } });
  await save({ kind: 'edit', type: 'artefact', id: vase, values: { maker: 'Birch', sort: 'painting' } });
  await save({ kind: 'create', type: 'artefact', id: robe, values: { title: 'Robe', sort: 'textile' } });
  await save({ kind: 'delete', type: 'inspection', id: check });
  await save({ kind: 'restore', type: 'inspection', id: check });
  const family = await getFamily(await loadWorkspace(workspace.key), 'artefact', vase);
  await keepFamily(by, { name: 'The vase', data: family });
  await keepProof(by, {
    ...{ rule: workspace.rules[0]!, name: 'Damage is counted', family, runs: [] },
    expectations: [{ kind: 'stays', type: 'artefact', id: vase, field: 'treatments', value: '1' }],
  });
  await addRequest(by, { name: 'Count treatments', words: 'How often?', rules: [workspace.rules[0]!] });
  await addList(by, {
    name: 'All',
    definition: { kind: 'list', type: 'artefact', columns: ['worth'], sort: null, condition: null },
  });
  return workspace;
}

/** What a workspace answers of all this, as plain data. */
export async function answersOf(key: string): Promise<unknown> {
  const workspace = await loadWorkspace(key);
  const rules = await listRules(workspace);
  const count = rules.find(({ definition }) => definition.kind === 'rollUp')!;
  const answers = {
    rules,
    records: await Promise.all(
      workspace.model.types.map(({ key: type }) =>
        listRecords(workspace, { type, filter: {}, descending: false, limit: 50 }),
      ),
    ),
    explanation: await getExplanation(workspace, {
      type: 'artefact',
      id: vase,
      field: 'treatments',
      from: 0,
      limit: 50,
    }),
    history: await getHistory(workspace, { type: 'artefact', id: vase }),
    runs: await listRuns(workspace, null, 50),
    proofs: await proofsOf(key, count.id),
    requests: await requestViews(key),
    proposals: await listProposals(workspace, false),
    lists: await savedLists(key),
    families: await sampleFamilies(key),
  };
  return JSON.parse(JSON.stringify(answers));
}
