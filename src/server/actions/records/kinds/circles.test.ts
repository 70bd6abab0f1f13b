import { cases } from '@/core/testing/cases';
import type { Edit } from '@/core/engine';
import { AGREED, ALL_AGREED, CIRCLES, OPENS } from '@/core/testing/circles';
import { printRows } from '@/core/testing/compare';
import { decimal, rowOf, uuid } from '@/core/testing/galleries';
import { numbered, RuleDesk } from '@/core/testing/rule-desk';
import { touring } from '@/core/testing/touring';
import type { RuleDefinition } from '@/core/rules';
import fc from 'fast-check';
import { disconnect } from '@/server/database/connection';
import { edit } from '@/server/testing/edits';
import { flawsIn } from '@/server/testing/flaws';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { saveEdits } from '@/server/actions/records/save-edits';
import { changeState } from '@/server/actions/rules/change-state';

const model = touring();
const [silk, salt] = [uuid('11'), uuid('12')];
const LOANS = ['21', '22', '23', '24'].map(uuid);
const ROWS = [
  ...[silk, salt].map((id, at) =>
    rowOf(model, 'exhibition', id, {
      ...{ coordinator: at ? 'Elsie' : 'Farid', phase: 'proposed', artefactCount: decimal(0) },
    }),
  ),
  ...LOANS.map((id, at) =>
    rowOf(model, 'loan', id, { exhibition: at < 3 ? silk : salt, stage: 'requested', coordinator: 'Farid' }),
  ),
];
let workspace: TestWorkspace;
const begin = async (...rules: readonly RuleDefinition[]) => {
  workspace = await testWorkspace({ model, rows: ROWS, rules: numbered([...rules]) });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const picture = (rows: Parameters<typeof printRows>[0]) =>
  printRows(rows.filter(({ type }) => type === 'loan' || type === 'exhibition'));

const value = fc.constantFrom('Priya', 'Zoe', 'Farid', null);
const loan = fc.record(
  {
    coordinator: value,
    stage: fc.constantFrom('requested', 'agreed', 'declined'),
    exhibition: fc.constantFrom(silk, salt, null),
  },
  { requiredKeys: [] },
);
const exhibition = fc.record(
  { coordinator: value, phase: fc.constantFrom('proposed', 'open') },
  { requiredKeys: [] },
);
const anEdit = fc.oneof(
  fc
    .record({ id: fc.constantFrom(...LOANS), values: loan })
    .map(({ id, values }) => edit('loan', id, values)),
  fc
    .record({ id: fc.constantFrom(silk, salt), values: exhibition })
    .map(({ id, values }) => edit('exhibition', id, values)),
);
const save = fc.uniqueArray(anEdit, { selector: ({ id }) => id!, minLength: 1, maxLength: 3 });

test('saves go round as in memory, to the same end', async () => {
  await begin(...CIRCLES);
  const desk = new RuleDesk(model, numbered([...CIRCLES]), ROWS);
  await fc.assert(
    fc.asyncProperty(save, async (edits) => {
      await saveEdits({ ...by(), edits });
      desk.run(edits as readonly Edit[]);
      expect(desk.refused).toBe('');
      const expected = model.types.flatMap(({ key }) => [...desk.store.rows(key)]);
      expect(picture(await workspace.rows())).toBe(picture(expected));
    }),
    { numRuns: cases(20), endOnFailure: true },
  );
  expect(await flawsIn(workspace)).toEqual([]);
});

test('the edit of a list goes round, too, and its rehearsal says so before', async () => {
  await begin(AGREED, OPENS, ALL_AGREED);
  const list = { ...by(), type: 'loan', search: 'o', values: { stage: 'agreed' } };
  const titled = LOANS.slice(0, 2).map((id) => edit('loan', id, { title: 'Robes' }));
  await saveEdits({ ...by(), edits: [...titled, edit('loan', LOANS[2]!, { title: 'Kites' })] });
  const rehearsed = await rehearseListEdit({ ...list, search: 'Robes' });
  expect(rehearsed.changed).toBe(2);
  expect(rehearsed.effects.map(({ fieldName }) => fieldName).sort()).toEqual([
    'Artefact count',
    'Phase',
    'Stage',
  ]);
  await editList({ ...list, search: 'Robes', expected: 2 });
  const rows = await workspace.rows();
  const at = (id: string) => rows.find((row) => row.id === id)!.values;
  expect(LOANS.map((id) => at(id).stage)).toEqual(['agreed', 'agreed', 'agreed', 'requested']);
  expect([at(silk).phase, String(at(silk).artefactCount)]).toEqual(['open', '3']);
  expect(await flawsIn(workspace)).toEqual([]);
});

test('eight writers at a time leave nothing behind', async () => {
  await begin(...CIRCLES);
  await Promise.all(
    Array.from({ length: 24 }, (_, at) =>
      saveEdits({
        ...by(),
        edits: [
          edit('loan', LOANS[at % 4]!, {
            coordinator: `Person ${at}`,
            stage: at % 3 ? 'agreed' : 'declined',
            exhibition: at % 5 ? silk : salt,
          }),
        ],
      }),
    ),
  );
  expect(await flawsIn(workspace)).toEqual([]);
});

test('taken live on what matches already, what is kept is right once they have acted', async () => {
  await begin(AGREED, ALL_AGREED, OPENS);
  const opens = workspace.rules[2]!;
  await changeState({ ...by(), id: opens, state: 'paused' });
  await saveEdits({ ...by(), edits: LOANS.slice(0, 2).map((id) => edit('loan', id, { stage: 'agreed' })) });
  await changeState({ ...by(), id: opens, state: 'live', actsOnMatching: true });
  const rows = await workspace.rows();
  expect(rows.find(({ id }) => id === silk)!.values.phase).toBe('open');
  expect(await flawsIn(workspace)).toEqual([]);
});
