import { buildPlan } from '@/core/plan';
import { workOutPlainly } from '@/core/testing/plain';
import {
  ALL_RULES,
  EXHIBITION_ARTEFACTS,
  galleries,
  gbp,
  GRADE,
  INSURED_TOTAL,
  LENT_TOTAL,
  LOAN_ARTEFACTS,
  rollUp,
  rowOf,
  ruleOf,
  uuid,
  fieldOf,
} from '@/core/testing/galleries';
import type { Row, WireEdit } from '@/core/engine';
import type { History, HistoryEntry } from '@/core/api';
import type { Value } from '@/core/values';
import { database, disconnect } from '@/server/database/connection';
import { getExplanation } from '@/server/queries/records/explanation';
import { getFamily } from '@/server/queries/records/family';
import { getHistory } from '@/server/queries/ledger/history';
import { getRule, listKeepers } from '@/server/queries/rules/rules';
import { type Refusal } from '@/server/refusal';
import { run, quote } from '@/server/store/sql/sql';
import { type TestWorkspace, TESTER, testWorkspace } from '@/server/testing/workspace';
import { previewLive } from '@/server/actions/rules/preview-live';
import { rehearseOnData } from './rehearse';
import { saveEdits } from './save-edits';
import { changeRule, createRule, deleteDraft } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';

const model = galleries();
const [museum, annex, silk, maps] = [uuid('1'), uuid('2'), uuid('11'), uuid('12')];
const loans = ['21', '22', '23', '24', '25', '26'].map(uuid);
const money = (amount: string) => ({ amount, currency: 'GBP' });

const rows = (): Row[] => [
  rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
  rowOf(model, 'institution', annex, { title: 'Annex', partOf: museum }),
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
  rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table', open: false }),
  ...loans.map((id, index) =>
    rowOf(model, 'loan', id, {
      title: `Loan ${index}`,
      exhibition: index < 3 ? silk : maps,
      lender: museum,
      stage: index % 2 === 0 ? 'agreed' : 'declined',
      insuredValue: gbp(`${index + 1}00.25`),
    }),
  ),
];

let workspace: TestWorkspace;
const open = async (rules = ALL_RULES) =>
  void (workspace = await testWorkspace({ model, rows: rows(), rules }));
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const edit = (id: string, values: Record<string, unknown>, version?: number): WireEdit => ({
  kind: 'edit',
  type: 'loan',
  id,
  values,
  ...(version ? { version } : {}),
});
const valueOf = async (id: string, field: string): Promise<Value> =>
  (await workspace.rows()).find((row) => row.id === id)!.values[field] ?? null;
const inSchema = async <T>(text: string): Promise<T[]> => {
  const { schema } = await workspace.load();
  return database().transaction((transaction) =>
    run<T>(transaction, text.replaceAll('$schema', quote(schema))),
  );
};
const refusal = async (work: Promise<unknown>): Promise<Refusal> =>
  work.then(
    () => {
      throw new Error('It was accepted');
    },
    (error: Refusal) => error,
  );

describe('a save', () => {
  test('is one run with all that follows, in the ledger with its causes', async () => {
    await open();
    const saved = await save(edit(loans[0]!, { insuredValue: money('1000.00') }));
    expect(await valueOf(silk, 'insuredTotal')).toEqual(gbp('1300.25'));
    const ledger = await inSchema<{
      type: string;
      record: string;
      changes: object;
      sources: Record<string, { causes: object[] }>;
    }>(
      `SELECT type, record::text, changes, sources FROM $schema._ledger WHERE run = ${saved.run} ORDER BY type, record`,
    );
    expect(ledger.map(({ type, changes }) => [type, changes])).toEqual([
      [
        'exhibition',
        {
          insuredTotal: [money('400.50'), money('1300.25')],
          averageInsured: [money('200.25'), money('500.17')],
        },
      ],
      ['institution', { lentTotal: [money('600.75'), money('1500.50')] }],
      ['loan', { insuredValue: [money('100.25'), money('1000.00')] }],
    ]);
    expect(ledger[0]!.sources.insuredTotal!.causes).toEqual([
      { type: 'loan', id: loans[0], field: 'insuredValue' },
    ]);
    expect(ledger[2]!.sources).toEqual({});
  });

  test('that changes nothing makes no run', async () => {
    await open();
    const saved = await save(edit(loans[0]!, { insuredValue: money('100.25') }));
    expect(saved.run).toBeNull();
  });

  test('is refused whole when one edit is, and nothing of it is saved', async () => {
    await open();
    const before = await inSchema('SELECT count(*) FROM $schema._run');
    const refused = await refusal(
      save(edit(loans[0]!, { stage: 'declined' }), edit(loans[1]!, { exhibition: museum })),
    );
    expect(refused).toMatchObject({ status: 422, code: 'link.gone' });
    expect(await valueOf(loans[0]!, 'stage')).toBe('agreed');
    expect(await inSchema('SELECT count(*) FROM $schema._run')).toEqual(before);
  });

  test('names the version that it saw; the second of two is told', async () => {
    await open();
    await save(edit(loans[0]!, { stage: 'returned' }, 1));
    const refused = await refusal(save(edit(loans[0]!, { stage: 'declined' }, 1)));
    expect(refused).toMatchObject({ status: 409, code: 'edit.version', data: { seen: 1, current: 2 } });
  });

  test('needs somebody who acts', async () => {
    await open([]);
    expect(
      await refusal(saveEdits({ workspace: workspace.key, person: '', edits: [edit(loans[0]!, {})] })),
    ).toMatchObject({ status: 401 });
  });

  test('by many at once under the same parents loses nothing: no total is wrong, no entry missing', async () => {
    await open();
    const writers = Array.from({ length: 8 }, async (_, writer) => {
      let done = 0;
      for (let turn = 0; turn < 12; turn += 1) {
        const id = loans[(writer + turn) % loans.length]!;
        const values =
          turn % 3 === 0
            ? { exhibition: (writer + turn) % 2 === 0 ? silk : maps }
            : turn % 3 === 1
              ? { insuredValue: money(`${writer}${turn}.50`) }
              : { stage: turn % 2 === 0 ? 'agreed' : 'declined' };
        if ((await save(edit(id, values))).run !== null) done += 1;
      }
      return done;
    });
    const done = (await Promise.all(writers)).reduce((sum, count) => sum + count, 0);
    const after = await workspace.rows();
    const { plan } = buildPlan(model, ALL_RULES);
    const worked = workOutPlainly(model, plan, after);
    for (const rule of plan.rules) {
      for (const row of after.filter(({ type }) => type === rule.writes.type)) {
        const expected = worked.get(`${row.type} ${row.id}`)![rule.writes.field];
        expect(row.errors[rule.writes.field] ? 'error' : row.values[rule.writes.field]).toEqual(expected);
      }
    }
    const [saves] = await inSchema<{ runs: string }>(
      "SELECT count(*) AS runs FROM $schema._run WHERE kind = 'save'",
    );
    const [entries] = await inSchema<{ runs: string }>(
      "SELECT count(DISTINCT l.run) AS runs FROM $schema._ledger l JOIN $schema._run r ON r.id = l.run WHERE r.kind = 'save' AND l.type = 'loan'",
    );
    expect(Number(saves!.runs)).toBe(done);
    expect(Number(entries!.runs)).toBe(done);
  });
});

describe('taking a rule live', () => {
  test('fills all records by one run, with what follows, as the preview said', async () => {
    await open([]);
    const artefacts = await createRule({ ...by(), definition: LOAN_ARTEFACTS });
    const sum = await createRule({ ...by(), definition: EXHIBITION_ARTEFACTS });
    await changeState({ ...by(), id: sum, state: 'live' });
    const preview = await previewLive(workspace.key, artefacts);
    expect(preview.effects.map(({ fieldName, changed, total }) => [fieldName, changed, total])).toEqual([
      ['Artefact count', 6, 6],
      ['Artefact count', 0, 2],
    ]);
    const changed = await changeState({ ...by(), id: artefacts, state: 'live' });
    expect(changed.written).toEqual([
      { rule: artefacts, records: 6 },
      { rule: sum, records: 0 },
    ]);
    const [entry] = await inSchema<{ entries: string }>(
      `SELECT count(*) AS entries FROM $schema._ledger WHERE run = ${changed.run}`,
    );
    expect(Number(entry!.entries)).toBe(6);
  });

  test('the preview tells the largest differences first, and saves nothing', async () => {
    await open([]);
    const id = await createRule({ ...by(), definition: INSURED_TOTAL });
    const [effect] = (await previewLive(workspace.key, id)).effects;
    expect(effect!.largest.map(({ title, before, after }) => [title, before.text, after.text])).toEqual([
      ['The Mapmaker’s Table', 'empty', '500.25 GBP'],
      ['Rivers of Silk', 'empty', '400.50 GBP'],
    ]);
    expect(await valueOf(silk, 'insuredTotal')).toBeNull();
  });

  test('fills what a plain evaluator gives, errors and what reads them included', async () => {
    const readsError = rollUp({
      ...{ type: 'institution', target: 'partCount', aggregate: 'average' },
      route: [{ direction: 'down', type: 'exhibition', link: 'venue' }],
      value: fieldOf('grade'),
    });
    const venued = rows().map((row) =>
      row.type === 'exhibition' ? { ...row, values: { ...row.values, venue: annex } } : row,
    );
    const given = venued.concat(
      Array.from({ length: 7 }, (_, index) =>
        rowOf(model, 'artefact', uuid(`3${index}`), { loan: loans[0]! }),
      ),
    );
    workspace = await testWorkspace({
      model,
      rows: given,
      rules: [LOAN_ARTEFACTS, GRADE, readsError].map((definition, index) => ruleOf(definition, index + 1)),
    });
    const found = new Map((await workspace.rows()).map((row) => [row.id, row]));
    expect(found.get(silk)).toMatchObject({ values: { grade: null }, errors: { grade: 'out_of_range' } });
    expect(found.get(annex)).toMatchObject({
      values: { partCount: null },
      errors: { partCount: 'input_has_problem' },
    });
    expect(found.get(museum)!.errors).toEqual({});
    await save({ kind: 'delete', type: 'artefact', id: uuid('30') });
    const after = new Map((await workspace.rows()).map((row) => [row.id, row]));
    expect(after.get(silk)!.errors).toEqual({});
    // The other exhibition has no artefact: its grade of 0 is out of range, and what reads it still carries that on.
    expect(after.get(maps)!.errors).toEqual({ grade: 'out_of_range' });
    expect(after.get(annex)!.errors).toEqual({ partCount: 'input_has_problem' });
  });

  test('is refused beside a rule that keeps the same field; the draft may wait', async () => {
    await open([ruleOf(INSURED_TOTAL, 1, 'Total')]);
    const id = await createRule({
      ...by(),
      definition: { ...INSURED_TOTAL, condition: null },
      name: 'Everything',
    });
    expect((await getRule(await workspace.load(), id)).findings.map(({ code }) => code)).toEqual([
      'plan.twoWriters',
    ]);
    expect(await refusal(changeState({ ...by(), id, state: 'live' }))).toMatchObject({
      status: 409,
      code: 'plan.twoWriters',
    });
  });

  test('a live rule that is changed goes on as it was until the change is taken live', async () => {
    await open([ruleOf(INSURED_TOTAL, 1)]);
    const [id] = workspace.rules as [string];
    const seen = await getRule(await workspace.load(), id);
    await changeRule({
      ...by(),
      id,
      version: seen.version,
      definition: { ...INSURED_TOTAL, condition: null },
    });
    expect(await getRule(await workspace.load(), id)).toMatchObject({
      state: 'live',
      hasChangesNotLive: true,
    });
    await save(edit(loans[0]!, { insuredValue: money('1.00') }));
    expect(await valueOf(silk, 'insuredTotal')).toEqual(gbp('301.25'));
    await changeState({ ...by(), id, state: 'live' });
    expect(await valueOf(silk, 'insuredTotal')).toEqual(gbp('501.50'));
    expect(await refusal(changeRule({ ...by(), id, version: seen.version, name: 'Late' }))).toMatchObject({
      status: 409,
      code: 'rule.version',
    });
  });

  test('a version of a rule can’t be changed behind its back', async () => {
    await open([ruleOf(INSURED_TOTAL, 1)]);
    await expect(inSchema("UPDATE $schema._rule_version SET definition = '{}'")).rejects.toThrow(
      /never changes/,
    );
  });
});

describe('pausing a rule', () => {
  test('leaves its values standing; people may enter them, saves don’t touch them', async () => {
    await open([ruleOf(INSURED_TOTAL, 1)]);
    const [id] = workspace.rules as [string];
    await changeState({ ...by(), id, state: 'paused' });
    await save(edit(loans[0]!, { insuredValue: money('9.00') }));
    expect(await valueOf(silk, 'insuredTotal')).toEqual(gbp('400.50'));
    await save({ kind: 'edit', type: 'exhibition', id: silk, values: { insuredTotal: money('5.00') } });
    expect(await valueOf(silk, 'insuredTotal')).toEqual(gbp('5.00'));
    expect(await listKeepers(await workspace.load())).toMatchObject([
      { type: 'exhibition', field: 'insuredTotal', rule: { id, state: 'paused' } },
    ]);
    expect(await refusal(changeState({ ...by(), id, state: 'paused' }))).toMatchObject({ status: 409 });
  });

  test('and only a draft that was never live can be deleted', async () => {
    await open([ruleOf(INSURED_TOTAL, 1)]);
    const [id] = workspace.rules as [string];
    expect(await refusal(deleteDraft({ ...by(), id }))).toMatchObject({ status: 409, code: 'rule.notDraft' });
    const draft = await createRule({ ...by(), definition: LENT_TOTAL });
    await deleteDraft({ ...by(), id: draft });
    expect(await refusal(getRule(await workspace.load(), draft))).toMatchObject({ status: 404 });
  });
});

describe('a rehearsal on the data', () => {
  test('tells what would happen, drafts included, and changes nothing', async () => {
    await open([ruleOf(LENT_TOTAL, 1)]);
    const before = JSON.stringify(await workspace.rows());
    const { filled, ripple } = await rehearseOnData({
      workspace: workspace.key,
      drafts: [{ definition: INSURED_TOTAL, name: 'Total' }],
      edits: [edit(loans[1]!, { stage: 'agreed', exhibition: maps })],
    });
    expect(filled!.waves[0]!.changes.map(({ title, after }) => [title, after!.text])).toEqual([
      ['Rivers of Silk', '400.50 GBP'],
      ['The Mapmaker’s Table', '500.25 GBP'],
    ]);
    expect(
      ripple.waves[1]!.changes.map(({ fieldName, title, after }) => [fieldName, title, after!.text]).sort(),
    ).toEqual([
      ['Insured total', 'The Mapmaker’s Table', '700.50 GBP'],
      ['Lent total', 'Kestrel Museum', '400.50 GBP'],
    ]);
    expect(JSON.stringify(await workspace.rows())).toBe(before);
  });

  test('refuses what a save would refuse', async () => {
    await open([]);
    const refused = await refusal(
      rehearseOnData({
        workspace: workspace.key,
        drafts: [],
        edits: [{ kind: 'delete', type: 'exhibition', id: silk }],
      }),
    );
    expect(refused).toMatchObject({ status: 409, code: 'delete.children' });
  });
});

describe('what screens read', () => {
  test('a family brings its members, and around them what its rules need', async () => {
    await open();
    const family = await getFamily(await workspace.load(), 'exhibition', silk);
    expect(new Set(family.members)).toEqual(new Set([silk, ...loans.slice(0, 3)]));
    // The lender's total depends on all of its loans, also those of the other exhibition.
    expect(family.records.map(({ id }) => id)).toEqual(expect.arrayContaining([museum, ...loans]));
    expect(family.complete).toContainEqual({ type: 'loan', link: 'lender', parent: museum });
  });

  test('an opened value tells who counts and why the others don’t; a field that nobody keeps has nothing to open', async () => {
    await open();
    const opening = { from: 0, limit: 2 };
    const opened = await getExplanation(await workspace.load(), {
      ...opening,
      ...{ type: 'exhibition', id: silk, field: 'insuredTotal' },
    });
    expect(
      opened.members.map(({ title, standing, reasons }) => [
        title,
        standing,
        reasons.map(({ found }) => found),
      ]),
    ).toEqual([
      ['Loan 0', 'counts', []],
      ['Loan 2', 'counts', []],
    ]);
    expect(opened).toMatchObject({
      counted: 2,
      total: 3,
      next: 2,
      result: { value: { text: '400.50 GBP' } },
    });
    expect(opened.writtenBy).toMatchObject({ person: TESTER.name });
    const rest = await getExplanation(await workspace.load(), {
      ...{ type: 'exhibition', id: silk, field: 'insuredTotal', from: 2, limit: 2 },
    });
    expect(rest.next).toBeNull();
    expect(rest.members.map(({ title, standing, reasons }) => [title, standing, reasons[0]?.found])).toEqual([
      ['Loan 1', 'leftOut', 'Declined'],
    ]);
    const notKept = { ...opening, type: 'loan', id: loans[0]!, field: 'stage' };
    expect(await refusal(getExplanation(await workspace.load(), notKept))).toMatchObject({
      status: 404,
      code: 'field.notKept',
    });
  });

  test('a history goes back to the making of the record', async () => {
    await open([ruleOf(INSURED_TOTAL, 1, 'Total')]);
    await save(edit(loans[0]!, { insuredValue: money('1.00'), exhibition: maps }));
    const { entries: history } = await getHistory(await workspace.load(), { type: 'exhibition', id: silk });
    expect(history.map(({ event, kind, person }) => [event, kind, person])).toEqual([
      ['changed', 'save', TESTER.name],
      ['changed', 'live', TESTER.name],
      ['created', 'load', TESTER.name],
    ]);
    expect(history[0]!.changes[0]).toMatchObject({
      fieldName: 'Insured total',
      before: { text: '400.50 GBP' },
      after: { text: '300.25 GBP' },
      rule: { name: 'Total' },
    });
    expect(history[0]!.changes[0]!.causes).toEqual(
      expect.arrayContaining(['Exhibition of Loan 0', 'Insured value of Loan 0']),
    );
    const { entries: loan } = await getHistory(await workspace.load(), { type: 'loan', id: loans[0]! });
    expect(loan[0]!.changes.find(({ field }) => field === 'exhibition')).toMatchObject({
      before: { text: 'Rivers of Silk' },
      after: { text: 'The Mapmaker’s Table' },
      rule: null,
    });
  });

  test('a long history comes in pages, each change once', async () => {
    await open([ruleOf(INSURED_TOTAL, 1, 'Total')]);
    for (const amount of ['1.00', '2.00', '3.00', '4.00'])
      await save(edit(loans[0]!, { insuredValue: money(amount) }));
    const loaded = await workspace.load();
    const whole = await getHistory(loaded, { type: 'exhibition', id: silk });
    expect(whole.entries).toHaveLength(6);
    const paged: HistoryEntry[] = [];
    let before: string | null = null;
    do {
      const page: History = await getHistory(loaded, { type: 'exhibition', id: silk, before, limit: 2 });
      paged.push(...page.entries);
      before = page.next;
    } while (before !== null);
    expect(paged).toEqual(whole.entries);
  });
});
