import fc from 'fast-check';
import type { Create, RuleDefinition } from '../rules';
import { rollUp, rowOf, uuid } from '../testing/galleries';
import { inspections, LINE, TREATMENT } from '../testing/inspections';
import { numbered, RuleDesk } from '../testing/rule-desk';
import { Decimal, type Value } from '../values';
import { type Edit, type Row } from '.';

const model = inspections();
const ARTEFACTS = [uuid('1'), uuid('2'), uuid('3')];
const INSPECTIONS = [uuid('11'), uuid('12'), uuid('13'), uuid('14')];
/** Fields that follow both ways; the title, which must be entered, only follows. */
const BOTH_WAYS = ['maker', 'worth'];

const ALWAYS: Create = { ...LINE, making: 'directly' };
const COUNT: RuleDefinition = rollUp({
  ...{ type: 'artefact', target: 'treatments', aggregate: 'count', value: null, whenNone: '0' },
  route: [{ direction: 'down', type: 'treatment', link: 'artefact' }],
});

type Values = Readonly<Record<string, Value>>;
type Act =
  | { readonly on: 'artefact' | 'inspection' | 'line'; readonly at: number; readonly values: Values }
  | { readonly on: 'made'; readonly at: number; readonly values: Values }
  | { readonly on: 'bin'; readonly type: 'artefact' | 'inspection'; readonly at: number };

const text = fc.constantFrom('Anning', 'Brandt', 'Curie');
const held = {
  maker: fc.option(text),
  worth: fc.option(fc.integer({ min: 0, max: 3 }).map((of) => new Decimal(of))),
};
const artefact = fc.record(
  { ...held, title: text, sort: fc.constantFrom('painting', 'textile', 'paper', 'tool', null) },
  { requiredKeys: [] },
);
const inspection = fc.record(
  {
    outcome: fc.constantFrom('damage', 'damage', 'watch', null),
    byPhoto: fc.constantFrom(false, false, true, null),
    remark: fc.option(text),
    artefact: fc.constantFrom(...ARTEFACTS, null),
  },
  { requiredKeys: [] },
);
const act = (values: fc.Arbitrary<Values>, on: 'artefact' | 'inspection' | 'line' | 'made') =>
  fc.record({ on: fc.constant(on), at: fc.nat(3), values }) as fc.Arbitrary<Act>;
const anyAct: fc.Arbitrary<Act> = fc.oneof(
  { arbitrary: act(artefact, 'artefact'), weight: 4 },
  { arbitrary: act(inspection, 'inspection'), weight: 4 },
  { arbitrary: act(fc.record(held, { requiredKeys: [] }), 'line'), weight: 3 },
  { arbitrary: act(inspection, 'made'), weight: 1 },
  fc.record({
    on: fc.constant('bin' as const),
    type: fc.constantFrom('artefact' as const, 'inspection' as const),
    at: fc.nat(3),
  }),
);
const anySaves = fc.array(fc.array(anyAct, { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 8 });

const meetsLine = ({ values: { sort } }: Row) =>
  typeof sort === 'string' && ['painting', 'textile', 'paper'].includes(sort);
const meetsTreatment = ({ values: { outcome, byPhoto } }: Row) => outcome === 'damage' && byPhoto === false;
const same = (one: Value, other: Value) => String(one ?? '') === String(other ?? '');

const ROWS = [
  ...ARTEFACTS.map((id, at) =>
    rowOf(model, 'artefact', id, {
      ...{ title: `A${at}`, number: new Decimal(at + 1), treatments: new Decimal(0) },
    }),
  ),
  ...INSPECTIONS.map((id, at) =>
    rowOf(model, 'inspection', id, { artefact: ARTEFACTS[at % 3]!, outcome: 'watch' }),
  ),
];

class Desk extends RuleDesk {
  constructor(
    rules: readonly RuleDefinition[],
    private readonly isTurned = false,
  ) {
    const inOrder = numbered(rules);
    super(model, isTurned ? inOrder.reverse() : inOrder, ROWS);
  }

  row(type: string, id: string): Row {
    return this.store.row(type, id)!;
  }

  all(type: string): Row[] {
    return [...this.store.rows(type)];
  }

  /** For which of the records one was made, as the store notes it. */
  madeFor(rule: RuleDefinition, ids: readonly string[]): string[] {
    const { id } = [...this.plan.turns].find(({ definition }) => definition === rule)!;
    return this.store.notes
      .made(id, 'source', [...new Set(ids)])
      .map(({ source }) => source)
      .sort();
  }

  lineOf(artefact: string): Row | undefined {
    return this.all('line').find(({ values }) => values.artefact === artefact);
  }

  /** What people would do, as edits that fit what stands: one for each record. */
  edits(acts: readonly Act[], save: number): Edit[] {
    const edits = new Map<string, Edit>();
    const linesLast = [...acts].sort((a, b) => Number(a.on === 'line') - Number(b.on === 'line'));
    for (const [number, one] of linesLast.entries()) {
      if (one.on === 'made') {
        const id = uuid(String(500 + save * 10 + number));
        edits.set(id, { kind: 'create', type: 'inspection', id, values: { title: 'New', ...one.values } });
        continue;
      }
      const type = one.on === 'bin' ? one.type : one.on;
      const of = type === 'inspection' ? INSPECTIONS[one.at]! : ARTEFACTS[one.at % 3]!;
      const row = type === 'line' ? this.lineOf(of) : this.row(type, of);
      if (!row || edits.has(row.id) || (row.deleted && one.on !== 'bin')) continue;
      // An entry on what is taken away in the same save has nowhere to go back to.
      const own = type === 'line' ? edits.get(of) : undefined;
      if (own && (own.kind !== 'edit' || 'sort' in own.values)) continue;
      edits.set(
        row.id,
        one.on === 'bin'
          ? { kind: row.deleted ? 'restore' : 'delete', type, id: row.id }
          : { kind: 'edit', type, id: row.id, values: one.values },
      );
    }
    return this.isTurned ? [...edits.values()].reverse() : [...edits.values()];
  }

  save(acts: readonly Act[], number: number): { edits: Edit[]; isDone: boolean } {
    const edits = this.edits(acts, number);
    return { edits, isDone: this.run(edits).refused === '' };
  }
}

/** Which records came to meet a condition in a run: those made, and those that stood before and didn't. */
const entering = (meets: (row: Row) => boolean, before: readonly Row[], after: readonly Row[]): string[] => {
  const stood = new Map(before.map((row) => [row.id, row]));
  return after
    .filter((row) => {
      const was = stood.get(row.id);
      return !row.deleted && meets(row) && (!was || (!was.deleted && !meets(was)));
    })
    .map(({ id }) => id);
};

test('one stands for each record that ever came to meet the condition, and no other', () => {
  let made = 0;
  let saved = 0;
  fc.assert(
    fc.property(anySaves, (saves) => {
      const desk = new Desk([COUNT, TREATMENT, ALWAYS]);
      const entered = { inspection: new Set<string>(), artefact: new Set<string>() };
      for (const [number, acts] of saves.entries()) {
        const before = { inspection: desk.all('inspection'), artefact: desk.all('artefact') };
        const { isDone } = desk.save(acts, number);
        if (!isDone) continue;
        saved += 1;
        for (const id of entering(meetsTreatment, before.inspection, desk.all('inspection')))
          entered.inspection.add(id);
        for (const id of entering(meetsLine, before.artefact, desk.all('artefact'))) entered.artefact.add(id);
        expect(desk.madeFor(TREATMENT, INSPECTIONS.concat([...entered.inspection]))).toEqual(
          [...entered.inspection].sort(),
        );
        expect(desk.all('treatment')).toHaveLength(entered.inspection.size);
        expect(desk.madeFor(ALWAYS, ARTEFACTS)).toEqual([...entered.artefact].sort());
        expect(desk.all('line')).toHaveLength(entered.artefact.size);
        for (const type of ['treatment', 'line'])
          expect(
            desk
              .all(type)
              .map(({ values }) => Number(values.number))
              .sort((a, b) => a - b),
          ).toEqual(desk.all(type).map((_, at) => at + 1));
        for (const { id, values } of desk.all('artefact').filter((row) => !row.deleted))
          expect(Number(values.treatments)).toBe(
            desk.all('treatment').filter((row) => !row.deleted && row.values.artefact === id).length,
          );
      }
      made += desk.all('treatment').length + desk.all('line').length;
    }),
    { numRuns: 400 },
  );
  expect(Math.min(made, saved)).toBeGreaterThan(200);
}, 120_000);

test('both sides hold the same after every run: what the record got, and otherwise what was entered on what was made', () => {
  let returned = 0;
  fc.assert(
    fc.property(anySaves, (saves) => {
      const desk = new Desk([ALWAYS]);
      for (const [number, acts] of saves.entries()) {
        const before = new Map([...desk.all('artefact'), ...desk.all('line')].map((row) => [row.id, row]));
        const { edits, isDone } = desk.save(acts, number);
        if (!isDone) continue;
        const entered = (id: string, field: string): Value | undefined => {
          const one = edits.find((edit) => edit.id === id);
          if (one?.kind !== 'edit' || !(field in one.values)) return undefined;
          return same(one.values[field]!, before.get(id)!.values[field]!) ? undefined : one.values[field]!;
        };
        for (const source of desk.all('artefact')) {
          const line = desk.lineOf(source.id);
          const isInStep = !source.deleted && meetsLine(source);
          if (line) expect(line.deleted).toBe(!isInStep);
          if (line && isInStep) expect(line.values.title).toBe(source.values.title);
          const was = before.get(source.id)!;
          for (const field of BOTH_WAYS) {
            if (line && isInStep) expect(String(line.values[field])).toBe(String(source.values[field]));
            const own = entered(source.id, field);
            const back = line && before.has(line.id) ? entered(line.id, field) : undefined;
            if (own === undefined && back !== undefined) returned += 1;
            const expected = own !== undefined ? own : back !== undefined ? back : was.values[field]!;
            expect(String(source.values[field])).toBe(String(expected));
          }
        }
      }
    }),
    { numRuns: 400 },
  );
  expect(returned).toBeGreaterThan(20);
}, 120_000);

test('what is made depends neither on the order of the rules nor on that of the edits', () => {
  const printed = (desk: Desk) =>
    model.types
      .flatMap(({ key }) => desk.all(key))
      .map(({ type, id, deleted, values: { number: _, line, lineNumber, ...values } }) =>
        [
          ...[type, type === 'line' || type === 'treatment' ? '' : id, deleted],
          ...[line !== null, lineNumber !== null, JSON.stringify(values)],
        ].join(' '),
      )
      .sort();
  fc.assert(
    fc.property(anySaves, (saves) => {
      const desks = [new Desk([COUNT, TREATMENT, ALWAYS]), new Desk([COUNT, TREATMENT, ALWAYS], true)];
      for (const [number, acts] of saves.entries()) {
        const [one, other] = desks.map((desk) => desk.save(acts, number).isDone);
        expect(one).toBe(other);
        expect(printed(desks[0]!)).toEqual(printed(desks[1]!));
      }
    }),
    { numRuns: 200 },
  );
}, 120_000);
