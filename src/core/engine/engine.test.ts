import fc from 'fast-check';
import { ALL_RULES, decimal, galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import { buildPlan } from '@/core/plan';
import {
  inLockOrder,
  MemoryStore,
  Overlay,
  propagate,
  readEdits,
  runInMemory,
  type Edit,
  type WireEdit,
} from '.';

const model = galleries();
const { plan } = buildPlan(model, ALL_RULES);
const [museum, silk, loan, other] = [uuid('1'), uuid('11'), uuid('21'), uuid('22')];

describe('reading edits', () => {
  const read = (...edits: WireEdit[]) =>
    readEdits({ model, plan, edits, people: new Set(), newId: () => uuid('77') });
  const problems = (...edits: WireEdit[]) => {
    const result = read(...edits);
    return result.ok ? [] : result.problems.map(({ index, place, code }) => `${index} ${place} ${code}`);
  };

  test('a field that a rule keeps is refused by the rule’s name', () => {
    const result = read({
      kind: 'edit',
      type: 'exhibition',
      id: silk,
      values: { insuredTotal: { amount: '1', currency: 'GBP' } },
    });
    expect(result.ok ? '' : result.problems[0]!.message).toMatch(
      /Insured total is kept by the rule “Rule 1”, so it can’t be entered/,
    );
  });

  test('every problem is told, with its edit and its field', () => {
    expect(
      problems(
        {
          kind: 'edit',
          type: 'loan',
          id: loan,
          values: { stage: 'lost', colour: 'red', insuredValue: 'much' },
        },
        { kind: 'create', type: 'loan', values: {} },
        { kind: 'edit', type: 'crate', id: loan, values: {} },
        { kind: 'edit', type: 'loan', id: 'L-1', values: {} },
        { kind: 'edit', type: 'loan', id: other, values: { title: '' } },
        { kind: 'delete', type: 'loan', id: other },
      ),
    ).toEqual([
      ...[
        '0 stage value.option',
        '0 colour edit.field',
        '0 insuredValue value.kind',
        '1 title edit.required',
      ],
      ...['2 type edit.type', '3 id edit.id', '4 title edit.required', '5 id edit.twice'],
    ]);
  });

  test('a create without an id gets one', () => {
    expect(read({ kind: 'create', type: 'loan', values: { title: 'New' } })).toEqual({
      ok: true,
      edits: [{ kind: 'create', type: 'loan', id: uuid('77'), values: { title: 'New' } }],
    });
  });
});

test('locks are taken parents first, then by id; a type that is written is locked for writing throughout', () => {
  const claims = inLockOrder(model, [
    ...[
      { type: 'loan', id: other, strength: 'read' as const },
      { type: 'loan', id: loan, strength: 'write' as const },
    ],
    ...[
      { type: 'institution', id: museum, strength: 'read' as const },
      { type: 'exhibition', id: silk, strength: 'write' as const },
    ],
    { type: 'loan', id: loan, strength: 'read' as const },
  ]);
  expect(claims).toEqual([
    { type: 'institution', id: museum, strength: 'read' },
    { type: 'exhibition', id: silk, strength: 'write' },
    { type: 'loan', id: loan, strength: 'write' },
    { type: 'loan', id: other, strength: 'write' },
  ]);
});

describe('a family, which is part of the data', () => {
  function family(): MemoryStore {
    const store = new MemoryStore(model, false);
    store.put(rowOf(model, 'institution', museum, { lentTotal: gbp(5000) }));
    store.put(rowOf(model, 'exhibition', silk, { open: true, insuredTotal: gbp(100) }));
    store.put(
      rowOf(model, 'loan', loan, {
        exhibition: silk,
        lender: museum,
        stage: 'agreed',
        insuredValue: gbp(100),
      }),
    );
    store.markComplete({ type: 'loan', link: 'exhibition' }, silk);
    store.markComplete({ type: 'artefact', link: 'loan' }, loan);
    return store;
  }
  const run = (edits: readonly Edit[]) => {
    const store = family();
    const outcome = runInMemory(model, new Overlay(model, store), propagate({ model, plan, edits }));
    if (outcome.kind === 'refused') throw new Error(outcome.problems[0]!.message);
    return outcome.ripple;
  };

  test('works out what it holds whole, and shows as outside what it doesn’t', () => {
    const ripple = run([{ kind: 'edit', type: 'loan', id: loan, values: { insuredValue: gbp(250) } }]);
    expect(ripple.changes.find(({ field }) => field === 'insuredTotal')).toMatchObject({ after: gbp(250) });
    expect(ripple.changes.some(({ field }) => field === 'lentTotal')).toBe(false);
    expect(ripple.outside).toEqual([
      { type: 'institution', id: museum, field: 'lentTotal', rule: ALL_RULES[3]!.id },
    ]);
  });

  test('a parent that isn’t loaded at all is outside too', () => {
    const ripple = run([{ kind: 'edit', type: 'loan', id: loan, values: { exhibition: uuid('99') } }]);
    expect(ripple.outside.filter(({ id }) => id === uuid('99')).map(({ field }) => field)).toContain(
      'insuredTotal',
    );
    expect(ripple.changes.find(({ field, id }) => field === 'insuredTotal' && id === silk)).toMatchObject({
      after: gbp(0),
    });
  });

  test('a record made here has no children elsewhere', () => {
    const ripple = run([{ kind: 'create', type: 'exhibition', id: uuid('19'), values: { title: 'New' } }]);
    expect(ripple.outside).toEqual([]);
    expect(
      ripple.changes.find(({ field, id }) => field === 'artefactCount' && id === uuid('19')),
    ).toMatchObject({ after: decimal(0) });
  });
});

test('the result depends neither on the order of the edits nor on that of the rules', () => {
  const edits: Edit[] = [
    { kind: 'edit', type: 'loan', id: loan, values: { insuredValue: gbp(7), stage: 'agreed' } },
    { kind: 'edit', type: 'loan', id: other, values: { exhibition: silk, insuredValue: gbp(5) } },
    { kind: 'create', type: 'artefact', id: uuid('31'), values: { title: 'Fan', loan: other } },
    { kind: 'edit', type: 'exhibition', id: silk, values: { open: true } },
  ];
  const result = (order: readonly Edit[], rules: typeof ALL_RULES) => {
    const store = new MemoryStore(model, true);
    store.put(rowOf(model, 'institution', museum, {}));
    store.put(rowOf(model, 'exhibition', silk, {}));
    for (const id of [loan, other]) store.put(rowOf(model, 'loan', id, { lender: museum }));
    const outcome = runInMemory(
      model,
      store,
      propagate({ model, plan: buildPlan(model, rules).plan, edits: order }),
    );
    if (outcome.kind === 'refused') throw new Error('refused');
    const key = ({ type, id, field }: { type: string; id: string; field: string }) =>
      `${type} ${id} ${field}`;
    const changes = outcome.ripple.changes
      .map((change) => ({ ...change, causes: change.causes.map(key).sort() }))
      .sort((a, b) => (key(a) < key(b) ? -1 : 1));
    return JSON.stringify({
      changes,
      rows: model.types.flatMap(({ key: type }) =>
        [...store.rows(type)].sort((a, b) => (a.id < b.id ? -1 : 1)),
      ),
    });
  };
  const first = result(edits, ALL_RULES);
  fc.assert(
    fc.property(
      fc.shuffledSubarray(edits, { minLength: edits.length }),
      fc.shuffledSubarray([...ALL_RULES], { minLength: ALL_RULES.length }),
      (order, rules) => {
        expect(result(order, rules)).toBe(first);
      },
    ),
    { numRuns: 30 },
  );
});
