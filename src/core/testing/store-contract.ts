import fc from 'fast-check';
import type { Edit, Row, RunOutcome } from '@/core/engine';
import { type Model, readModel } from '@/core/model';
import { buildPlan, type Plan } from '@/core/plan';
import type { Rule } from '@/core/rules';
import type { Value } from '@/core/values';
import { ALL_RULES, decimal, galleries, gbp, rowOf, uuid } from './galleries';
import { workOutPlainly } from './plain';

/** A store under test: loaded with rows whose kept values are empty, which it fills before the first save. */
export interface StoreHarness {
  open(given: { model: Model; rules: readonly Rule[]; plan: Plan; rows: readonly Row[] }): Promise<OpenStore>;
  /** What follows from a save is left to sets, which tell numbers rather than each change. */
  readonly tellsNumbers?: true;
}

export interface OpenStore {
  save(edits: readonly Edit[]): Promise<RunOutcome>;
  /** All rows as they stand, deleted ones included. */
  rows(): Promise<readonly Row[]>;
  close(): Promise<void>;
}

const museum = uuid('1');
const annex = uuid('2');
const silk = uuid('11');
const maps = uuid('12');
const loans = [uuid('21'), uuid('22'), uuid('23'), uuid('24')] as const;
const artefacts = [uuid('31'), uuid('32'), uuid('33'), uuid('34'), uuid('35')] as const;

function someRows(model: Model): Row[] {
  const loan = (id: string, exhibition: string | null, stage: string, value: Value, lender = museum) =>
    rowOf(model, 'loan', id, {
      exhibition,
      lender,
      stage,
      insuredValue: value,
      dueBack: `2027-0${id.slice(-1)}-15`,
    });
  return [
    rowOf(model, 'institution', museum, {}),
    rowOf(model, 'institution', annex, { partOf: museum }),
    rowOf(model, 'exhibition', silk, { venue: museum, open: true }),
    rowOf(model, 'exhibition', maps, { venue: annex, open: false }),
    loan(loans[0], silk, 'agreed', gbp('12250.00')),
    loan(loans[1], silk, 'agreed', gbp('900.50')),
    loan(loans[2], silk, 'declined', gbp('5000.00')),
    loan(loans[3], maps, 'requested', null, annex),
    ...artefacts.map((id, index) =>
      rowOf(model, 'artefact', id, { loan: loans[index % 3]!, weight: decimal('1.125') }),
    ),
  ];
}

/** What every store must do, whatever it is made of. */
export function testStore(name: string, harness: StoreHarness): void {
  const model = galleries();
  const { plan } = buildPlan(model, ALL_RULES);

  async function withStore(
    test: (store: OpenStore) => Promise<void>,
    rows: readonly Row[] = someRows(model),
  ) {
    const store = await harness.open({ model, rules: ALL_RULES, plan, rows });
    try {
      await test(store);
    } finally {
      await store.close();
    }
  }
  const rowIn = async (store: OpenStore, id: string): Promise<Row> =>
    (await store.rows()).find((row) => row.id === id)!;
  const valueIn = async (store: OpenStore, id: string, field: string): Promise<Value> =>
    (await rowIn(store, id)).values[field] ?? null;
  const edit = (id: string, values: Record<string, Value>, type = 'loan'): Edit => ({
    kind: 'edit',
    type,
    id,
    values,
  });
  const done = (outcome: RunOutcome) => {
    if (outcome.kind !== 'done')
      throw new Error(`refused: ${outcome.problems.map((problem) => problem.message).join('; ')}`);
    return outcome.ripple;
  };
  const codes = (outcome: RunOutcome) =>
    outcome.kind === 'refused' ? outcome.problems.map((problem) => problem.code) : [];

  describe(`${name}: a store`, () => {
    test('starts with every kept value filled', () =>
      withStore(async (store) => {
        expect(await valueIn(store, silk, 'insuredTotal')).toEqual(gbp('13150.50'));
        expect(await valueIn(store, maps, 'insuredTotal')).toEqual(gbp('0'));
        expect(await valueIn(store, silk, 'averageInsured')).toEqual(gbp('6050.17'));
        expect(await valueIn(store, maps, 'averageInsured')).toBeNull();
        expect(await valueIn(store, silk, 'lastDue')).toBe('2027-03-15');
        expect(await valueIn(store, silk, 'artefactCount')).toEqual(decimal(5));
        expect(await valueIn(store, museum, 'lentTotal')).toEqual(gbp('18150.50'));
        expect(await valueIn(store, museum, 'partCount')).toEqual(decimal(1));
      }));

    test('refuses a value that a unique field has in another record, by its title; whoever frees it in the same run lets it go', async () => {
      const unique = readModel({
        types: model.types.map((type) => ({
          ...type,
          fields: type.fields.map((field) =>
            type.key === 'loan' && field.key === 'weight' ? { ...field, unique: true } : field,
          ),
        })),
      });
      const rows = someRows(unique).map((row) =>
        row.id === loans[0] ? { ...row, values: { ...row.values, weight: decimal('1.5') } } : row,
      );
      const store = await harness.open({ model: unique, rules: ALL_RULES, plan, rows });
      try {
        const take = (id: string, weight: string | null): Edit =>
          edit(id, { weight: weight === null ? null : decimal(weight) });
        const refused = await store.save([take(loans[1], '1.50')]);
        expect(codes(refused)).toEqual(['value.taken']);
        expect(refused.kind === 'refused' && refused.problems[0]!.message).toMatch(
          /Weight: “1.500” stands in another Loan already \(loan 021\), and no two may have the same/,
        );
        expect(codes(await store.save([take(loans[1], '2'), take(loans[2], '2')]))).toEqual([
          'value.taken',
          'value.taken',
        ]);
        done(await store.save([take(loans[0], null), take(loans[1], '1.5')]));
        done(await store.save([{ kind: 'delete', type: 'loan', id: loans[1] }]));
        done(await store.save([take(loans[2], '1.5')]));
        expect(codes(await store.save([{ kind: 'restore', type: 'loan', id: loans[1] }]))).toEqual([
          'value.taken',
        ]);
      } finally {
        await store.close();
      }
    });

    test('works a total out again when a value or a condition’s field changes, and tells why', () =>
      withStore(async (store) => {
        const ripple = done(
          await store.save([edit(loans[2], { stage: 'agreed', insuredValue: gbp('5000.01') })]),
        );
        expect(await valueIn(store, silk, 'insuredTotal')).toEqual(gbp('18150.51'));
        const total = ripple.changes.find((change) => change.field === 'insuredTotal')!;
        expect(total).toMatchObject({ before: gbp('13150.50'), after: gbp('18150.51'), wave: 1 });
        expect(new Set(total.causes.map((cause) => cause.field))).toEqual(new Set(['stage', 'insuredValue']));
        expect(ripple.changes.some((change) => change.id === maps)).toBe(false);
      }));

    test('moves a child: both parents follow', () =>
      withStore(async (store) => {
        done(await store.save([edit(loans[0], { exhibition: maps })]));
        expect(await valueIn(store, silk, 'insuredTotal')).toEqual(gbp('900.50'));
        expect(await valueIn(store, maps, 'insuredTotal')).toEqual(gbp('12250.00'));
      }));

    test('clears a link: the parent loses the child', () =>
      withStore(async (store) => {
        done(await store.save([edit(loans[0], { exhibition: null })]));
        expect(await valueIn(store, silk, 'insuredTotal')).toEqual(gbp('900.50'));
      }));

    test('runs a roll-up on a roll-up in the same run, in a later wave', () =>
      withStore(async (store) => {
        const ripple = done(
          await store.save([
            { kind: 'create', type: 'artefact', id: uuid('36'), values: { title: 'Fan', loan: loans[3] } },
          ]),
        );
        expect(await valueIn(store, loans[3], 'artefactCount')).toEqual(decimal(1));
        expect(await valueIn(store, maps, 'artefactCount')).toEqual(decimal(1));
        expect(
          ripple.changes
            .filter((change) => change.field === 'artefactCount')
            .map((change) => [change.type, change.wave]),
        ).toEqual([
          ['loan', 1],
          ['exhibition', 2],
        ]);
      }));

    test('gives a new parent its values, and a parent and child made together theirs', () =>
      withStore(async (store) => {
        done(
          await store.save([
            {
              kind: 'create',
              type: 'loan',
              id: uuid('29'),
              values: { title: 'Lamps', exhibition: uuid('19'), stage: 'agreed', insuredValue: gbp(7) },
            },
            { kind: 'create', type: 'exhibition', id: uuid('19'), values: { title: 'Lamps of the north' } },
          ]),
        );
        expect(await valueIn(store, uuid('19'), 'insuredTotal')).toEqual(gbp(7));
        expect(await valueIn(store, uuid('19'), 'artefactCount')).toEqual(decimal(0));
      }));

    test('deletes a child: it counts nowhere and its values stay', () =>
      withStore(async (store) => {
        done(await store.save([{ kind: 'delete', type: 'artefact', id: artefacts[0] }]));
        expect(await rowIn(store, artefacts[0])).toMatchObject({
          deleted: true,
          values: { weight: decimal('1.125') },
        });
        expect(await valueIn(store, loans[0], 'artefactCount')).toEqual(decimal(1));
        expect(await valueIn(store, silk, 'artefactCount')).toEqual(decimal(4));
      }));

    test('follows a change in the middle of a route', () =>
      withStore(async (store) => {
        const ripple = done(await store.save([edit(silk, { open: false }, 'exhibition')]));
        expect(await valueIn(store, museum, 'lentTotal')).toBeNull();
        expect(ripple.changes.find((change) => change.field === 'lentTotal')!.causes).toEqual([
          { type: 'exhibition', id: silk, field: 'open' },
        ]);
        done(await store.save([edit(silk, { open: true }, 'exhibition'), edit(loans[0], { lender: annex })]));
        expect(await valueIn(store, museum, 'lentTotal')).toEqual(gbp('5900.50'));
        expect(await valueIn(store, annex, 'lentTotal')).toEqual(gbp('12250.00'));
      }));

    test('keeps a value that can’t be worked out empty with its problem, and clears it by itself', () =>
      withStore(async (store) => {
        const more = ['41', '42'].map((id): Edit => ({
          kind: 'create',
          type: 'artefact',
          id: uuid(id),
          values: { title: id, loan: loans[0] },
        }));
        expect((await rowIn(store, silk)).values.grade).toEqual(decimal(5));
        done(await store.save(more));
        expect(await rowIn(store, silk)).toMatchObject({
          values: { grade: null },
          errors: { grade: 'out_of_range' },
        });
        done(await store.save([{ kind: 'delete', type: 'artefact', id: uuid('41') }]));
        expect(await rowIn(store, silk)).toMatchObject({ values: { grade: decimal(6) }, errors: {} });
      }));

    test('refuses what can’t be done, and writes nothing of it', () =>
      withStore(async (store) => {
        const before = await store.rows();
        const good = edit(loans[0], { stage: 'declined' });
        const refused = async (bad: Edit) => codes(await store.save([good, bad]));
        expect(await refused(edit(uuid('99'), { stage: 'agreed' }))).toEqual(['edit.gone']);
        expect(await refused({ ...edit(loans[1], { stage: 'declined' }), version: 9 } as Edit)).toEqual([
          'edit.version',
        ]);
        expect(await refused(edit(loans[1], { exhibition: uuid('99') }))).toEqual(['link.gone']);
        expect(await refused(edit(loans[1], { exhibition: museum }))).toEqual(['link.gone']);
        expect(await refused({ kind: 'delete', type: 'exhibition', id: silk })).toEqual(['delete.children']);
        expect(await refused(edit(museum, { partOf: annex }, 'institution'))).toEqual(['link.loop']);
        expect(
          await refused({ kind: 'create', type: 'loan', id: loans[1], values: { title: 'Twice' } }),
        ).toEqual(['edit.exists']);
        const byId = (rows: readonly Row[]) => new Map(rows.map((row) => [row.id, row]));
        expect(byId(await store.rows())).toEqual(byId(before));
      }));

    test('raises the version of what people edit, not of what rules keep', () =>
      withStore(async (store) => {
        const [loan, parent] = [(await rowIn(store, loans[0])).version, (await rowIn(store, silk)).version];
        done(await store.save([edit(loans[0], { insuredValue: gbp(1) })]));
        expect((await rowIn(store, loans[0])).version).toBe(loan + 1);
        expect((await rowIn(store, silk)).version).toBe(parent);
      }));

    test('writes nothing where nothing changes', () =>
      withStore(async (store) => {
        const version = (await rowIn(store, loans[0])).version;
        expect(done(await store.save([edit(loans[0], { insuredValue: gbp('12250') })])).changes).toEqual([]);
        expect((await rowIn(store, loans[0])).version).toBe(version);
      }));

    test('whatever is edited, gives what working everything out from nothing gives', async () => {
      await fc.assert(
        fc.asyncProperty(
          fc.array(fc.array(anyEdit, { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 5 }),
          (saves) =>
            withStore(async (store) => {
              for (const [number, edits] of saves.entries()) {
                await store.save(
                  edits
                    .filter((one, index) => edits.findIndex((other) => other.id === one.id) === index)
                    .map((one) => fresh(one, number)),
                );
              }
              expect(kept(await store.rows())).toEqual(keptPlainly(await store.rows()));
            }),
        ),
        { numRuns: 20 },
      );
    }, 120_000);
  });

  const keptFields = plan.rules.map((rule) => rule.writes);
  const kept = (rows: readonly Row[]) =>
    rows
      .filter((row) => !row.deleted)
      .flatMap((row) =>
        keptFields
          .filter(({ type }) => type === row.type)
          .map(({ field }) => [
            row.id,
            field,
            row.errors[field] ? 'error' : print(row.values[field] ?? null),
          ]),
      );
  const keptPlainly = (rows: readonly Row[]) => {
    const worked = workOutPlainly(model, plan, rows);
    return rows
      .filter((row) => !row.deleted)
      .flatMap((row) =>
        keptFields
          .filter(({ type }) => type === row.type)
          .map(({ field }) => {
            const value = worked.get(`${row.type} ${row.id}`)![field]!;
            return [row.id, field, value === 'error' ? 'error' : print(value)];
          }),
      );
  };
  const print = (value: Value) =>
    value !== null && typeof value === 'object' ? JSON.stringify(value) : value;
}

/** Creates get an id of their own in each save; a second create of the same id would only be refused. */
const fresh = (edit: Edit, save: number): Edit =>
  edit.kind === 'create' ? { ...edit, id: uuid(`5${save}${edit.id.slice(-2)}`) } : edit;

const anyExhibition = fc.constantFrom(silk, maps, null);
const anyMoney = fc.option(
  fc.integer({ min: -5_000_000, max: 5_000_000 }).map((pence) => gbp((pence / 100).toFixed(2))),
);
const anyLoanValues = fc.record(
  {
    exhibition: anyExhibition,
    lender: fc.constantFrom(museum, annex, null),
    stage: fc.constantFrom('requested', 'agreed', 'declined', null),
    insuredValue: anyMoney,
    dueBack: fc.constantFrom('2027-02-28', '1999-12-31', null),
  },
  { requiredKeys: [] },
);
const anyEdit: fc.Arbitrary<Edit> = fc.oneof(
  fc.record({
    kind: fc.constant('edit' as const),
    type: fc.constant('loan'),
    id: fc.constantFrom(...loans),
    values: anyLoanValues,
  }),
  fc.record({
    kind: fc.constant('create' as const),
    type: fc.constant('loan'),
    id: fc.constantFrom(uuid('61'), uuid('62')),
    values: anyLoanValues.map((values) => ({ title: 'New', ...values })),
  }),
  fc.record({
    kind: fc.constant('edit' as const),
    type: fc.constant('artefact'),
    id: fc.constantFrom(...artefacts),
    values: fc.record({ loan: fc.constantFrom(...loans, null) }),
  }),
  fc.record({
    kind: fc.constant('delete' as const),
    type: fc.constant('artefact'),
    id: fc.constantFrom(...artefacts),
  }),
  fc.record({
    kind: fc.constant('delete' as const),
    type: fc.constant('loan'),
    id: fc.constantFrom(...loans),
  }),
  fc.record({
    kind: fc.constant('edit' as const),
    type: fc.constant('exhibition'),
    id: fc.constantFrom(silk, maps),
    values: fc.record({ open: fc.constantFrom(true, false, null) }),
  }),
  fc.record({
    kind: fc.constant('edit' as const),
    type: fc.constant('institution'),
    id: fc.constantFrom(museum, annex),
    values: fc.record({ partOf: fc.constantFrom(museum, annex, null) }),
  }),
);
