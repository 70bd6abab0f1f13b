import { groupedChanges, type RippleGroup } from '@/core/verify';
import {
  EXHIBITION_ARTEFACTS,
  galleries,
  gbp,
  INSURED_TOTAL,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { importRecords } from '@/server/actions/imports/import-records';
import { saveEdits } from '@/server/actions/records/save-edits';
import { disconnect } from '@/server/database/connection';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { type GroupAsked, runGroupPage } from './run-group-page';
import { runGroups } from './run-groups';
import { getRun } from './runs';

const model = galleries();
const exhibitions = Array.from({ length: 12 }, (_, at) => uuid(String(11 + at)));
const loans = Array.from({ length: 60 }, (_, at) => uuid(String(101 + at)));
let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await testWorkspace({
    model,
    rules: [ruleOf(INSURED_TOTAL, 1, 'Total'), ruleOf(EXHIBITION_ARTEFACTS, 2, 'Artefacts')],
    rows: [
      ...exhibitions.map((id, at) => rowOf(model, 'exhibition', id, { title: `Exhibition ${at}` })),
      ...loans.map((id, at) =>
        rowOf(model, 'loan', id, {
          ...{ title: `Loan ${at}`, exhibition: exhibitions[at % 12]!, stage: 'agreed' },
          insuredValue: gbp(String(at)),
        }),
      ),
    ],
  });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});
const by = () => ({ workspace: workspace.key, person: TESTER.id });
const load = () => workspace.load();

/** The same run, read change by change and put together by the core. */
async function groupedByCore(run: string): Promise<RippleGroup[]> {
  const { waves, next } = await getRun(await load(), run, null, 1_000);
  expect(next).toBeNull();
  return waves.flatMap(({ number, changes }) => groupedChanges(number, changes).map(({ group }) => group));
}
const sorted = (groups: readonly RippleGroup[]) =>
  [...groups].sort((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1));

async function edited(times = 3): Promise<string> {
  const edits = loans.map((id, at) => ({
    ...{ kind: 'edit' as const, type: 'loan', id },
    values: {
      insuredValue: at % 7 === 0 ? null : { amount: String(at * times - 40), currency: 'GBP' },
      stage: at % 3 === 0 ? 'declined' : at % 3 === 1 ? 'returned' : 'agreed',
    },
  }));
  return (await saveEdits({ ...by(), edits })).run!;
}

test('what is alike in a run is the same as where its changes are put together one by one', async () => {
  const run = await edited();
  const { groups } = await runGroups(await load(), run);
  const expected = await groupedByCore(run);
  // Ways of equal number may stand in another order.
  const comparable = (all: readonly RippleGroup[]) =>
    sorted(all.map((group) => ({ ...group, becomes: group.ways > 5 ? [] : group.becomes })));
  expect(comparable(groups)).toEqual(comparable(expected));
  expect(groups.map(({ wave, fieldName, rule }) => [wave, fieldName, rule?.name ?? null])).toEqual([
    [0, 'Insured value', null],
    [0, 'Stage', null],
    [1, 'Insured total', 'Total'],
  ]);
});

test('records that were made and deleted are groups too', async () => {
  const records = Array.from({ length: 30 }, (_, at) => ({
    ...{ title: `New ${at}`, exhibition: exhibitions[at % 12]!, stage: 'agreed', artefactCount: '1' },
  }));
  const { run } = await importRecords({ ...by(), type: 'loan', records });
  const made = (await runGroups(await load(), run)).groups;
  expect(made.map(({ kind, records: many, plural }) => [kind, many, plural])).toEqual([
    ['created', 30, 'Loans'],
    ['field', 12, 'Exhibitions'],
  ]);
  const rows = await workspace.rows();
  const others = rows.filter(({ type, id }) => type === 'loan' && !loans.includes(id)).slice(0, 5);
  const gone = await saveEdits({
    ...by(),
    edits: others.map(({ id }) => ({ kind: 'delete', type: 'loan', id })),
  });
  expect((await runGroups(await load(), gone.run!)).groups[0]).toMatchObject({ kind: 'deleted', records: 5 });
});

test('a group opens into its records, page by page, and is searched by title', async () => {
  const run = await edited(5);
  const { groups } = await runGroups(await load(), run);
  const total = groups.find(({ rule }) => rule?.name === 'Total')!;
  const asked: GroupAsked = { ...total, rule: total.rule!.id, search: '', after: null, limit: 3 };
  const first = await runGroupPage(await load(), run, asked);
  const second = await runGroupPage(await load(), run, { ...asked, after: first.next });
  expect([first.changes.length, second.changes.length, second.next]).toEqual([3, 1, null]);
  const ids = [...first.changes, ...second.changes].map(({ id }) => id);
  expect(ids).toEqual(exhibitions.filter((_, at) => at % 3 === 2));
  const found = await runGroupPage(await load(), run, { ...asked, search: 'exhibition 11' });
  expect(found.changes.map(({ title, fieldName }) => [title, fieldName])).toEqual([
    ['Exhibition 11', 'Insured total'],
  ]);
  const byHand = groups.find(({ fieldName }) => fieldName === 'Insured value')!;
  const entered = await runGroupPage(await load(), run, {
    ...byHand,
    rule: null,
    search: '',
    after: null,
    limit: 500,
  });
  expect(entered.changes).toHaveLength(byHand.records);
});

test('a run that isn’t there is refused', async () => {
  expect(await refusal(runGroups(await load(), '999999'))).toMatchObject({
    status: 404,
    code: 'run.unknown',
  });
});
