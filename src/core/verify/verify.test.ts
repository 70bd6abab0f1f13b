import {
  ALL_RULES,
  galleries,
  gbp,
  INSURED_TOTAL,
  LENT_TOTAL,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { MemoryStore, type WireEdit } from '@/core/engine';
import { buildPlan } from '@/core/plan';
import {
  explain,
  type FamilyData,
  familyStore,
  recordFromWire,
  recordToWire,
  rehearse,
  type RehearsalInput,
} from '.';

const model = galleries();
const [museum, silk, one, two, three] = [uuid('1'), uuid('11'), uuid('21'), uuid('22'), uuid('23')];

function rows() {
  const loan = (id: string, title: string, stage: string, amount: string | null) =>
    rowOf(model, 'loan', id, {
      title,
      exhibition: silk,
      lender: museum,
      stage,
      insuredValue: amount === null ? null : gbp(amount),
    });
  return [
    rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
    rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: true }),
    ...[
      loan(one, 'Robes', 'agreed', '12250.00'),
      loan(two, 'Blocks', 'declined', '900.50'),
      loan(three, 'Pots', 'agreed', null),
    ],
  ];
}

function store(): MemoryStore {
  const made = new MemoryStore(model, true);
  rows().forEach((row) => made.put(row));
  return made;
}

const total = ruleOf(INSURED_TOTAL, 1, 'Insured total');
const input = (given: Partial<RehearsalInput>, on = store()) => ({
  model,
  store: on,
  live: [],
  drafts: [],
  edits: [],
  people: new Set<string>(),
  names: {},
  newId: () => uuid('99'),
  ...given,
});
const edit = (id: string, values: WireEdit['values']): WireEdit => ({
  kind: 'edit',
  type: 'loan',
  id,
  values: values!,
});

describe('a rehearsal', () => {
  test('leaves what it was rehearsed on as it is', () => {
    const on = store();
    const before = JSON.stringify([...on.rows('exhibition'), ...on.rows('loan')]);
    const { rehearsal, after } = rehearse(
      input(
        {
          live: [total],
          edits: [
            edit(one, { insuredValue: { amount: '1', currency: 'GBP' } }),
            { kind: 'delete', type: 'loan', id: two },
          ],
        },
        on,
      ),
    );
    expect(rehearsal.kind).toBe('done');
    expect(JSON.stringify([...on.rows('exhibition'), ...on.rows('loan')])).toBe(before);
    expect(after.row('loan', two)!.deleted).toBe(true);
  });

  test('fills what drafts would fill first, so that the ripple shows what follows from the edits', () => {
    const { rehearsal } = rehearse(input({ drafts: [total], edits: [edit(two, { stage: 'agreed' })] }));
    if (rehearsal.kind !== 'done') throw new Error('refused');
    expect(rehearsal.filled!.waves[0]!.changes).toMatchObject([
      { fieldName: 'Insured total', before: { text: 'empty' }, after: { text: '12,250.00 GBP' } },
    ]);
    const [, followed] = rehearsal.ripple.waves;
    expect(followed!.changes).toMatchObject([
      {
        ...{
          title: 'Rivers of Silk',
          before: { text: '12,250.00 GBP' },
          after: { text: '13,150.50 GBP' },
          rule: { name: 'Insured total' },
        },
        causes: [{ title: 'Blocks', fieldName: 'Stage' }],
      },
    ]);
  });

  test('a draft stands in for the live rule with its id', () => {
    const everything = { ...total, definition: { ...INSURED_TOTAL, condition: null } };
    const { rehearsal } = rehearse(input({ live: [total], drafts: [everything] }));
    expect(rehearsal.kind === 'done' && rehearsal.filled!.waves[0]!.changes[0]!.after!.text).toBe(
      '13,150.50 GBP',
    );
  });

  test('tells what would be refused, and which drafts don’t fit', () => {
    expect(rehearse(input({ edits: [edit(one, { stage: 'lost' })] })).rehearsal.kind).toBe('refused');
    expect(
      rehearse(input({ edits: [{ kind: 'delete', type: 'exhibition', id: silk }] })).rehearsal,
    ).toMatchObject({ kind: 'refused', edits: [{ code: 'delete.children' }] });
    expect(rehearse(input({ live: [total], drafts: [ruleOf(INSURED_TOTAL, 2)] })).rehearsal.kind).toBe(
      'unsound',
    );
  });
});

describe('an opened value', () => {
  const { plan } = buildPlan(model, [total, ruleOf(LENT_TOTAL, 2)]);
  const open = () =>
    explain(
      { model, plan, store: store(), names: {} },
      plan.rules.find(({ id }) => id === total.id)!,
      store().row('exhibition', silk)!,
    );

  test('says who counts, who doesn’t, and which test left them out', () => {
    expect(open().members.map(({ title, standing, reasons }) => [title, standing, reasons])).toEqual([
      ['Robes', 'counts', []],
      ['Blocks', 'leftOut', [{ test: 'Stage is Agreed', found: 'Declined' }]],
      ['Pots', 'empty', []],
    ]);
  });

  test('gives the result beside what is stored', () => {
    expect(open()).toMatchObject({
      counted: 1,
      result: { value: { text: '12,250.00 GBP' } },
      stored: { value: { text: 'empty' } },
    });
  });
});

describe('a family', () => {
  const data: FamilyData = {
    ...{ root: { type: 'exhibition', id: silk }, members: [silk, one, two, three], names: {} },
    records: rows().map((row) => recordToWire(model, row)),
    complete: [{ type: 'loan', link: 'exhibition', parent: silk }],
  };
  test('comes back from its wire form as it was', () => {
    for (const row of rows())
      expect(recordFromWire(model, JSON.parse(JSON.stringify(recordToWire(model, row))))).toEqual(row);
  });
  test('knows whose children are all here', () => {
    const opened = familyStore(model, data);
    expect(opened.hasAllChildren({ type: 'loan', link: 'exhibition' }, silk)).toBe(true);
    expect(opened.hasAllChildren({ type: 'loan', link: 'lender' }, museum)).toBe(false);
    const { rehearsal } = rehearse(
      input(
        { live: ALL_RULES, edits: [edit(one, { insuredValue: { amount: '1', currency: 'GBP' } })] },
        opened,
      ),
    );
    expect(
      rehearsal.kind === 'done' &&
        rehearsal.ripple.outside.map(({ title, fieldName }) => `${fieldName} of ${title}`),
    ).toEqual(['Lent total of Kestrel Museum']);
  });
  test('damaged data is refused, with its place', () => {
    const [record] = data.records;
    expect(() =>
      recordFromWire(model, { ...record!, values: { ...record!.values, partCount: 'many' } }),
    ).toThrow(/partCount: Expected a whole number/);
  });
});
