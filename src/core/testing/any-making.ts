import fc from 'fast-check';
import type { Edit, Row } from '@/core/engine';
import type { Create, RuleDefinition } from '@/core/rules';
import { Decimal, type Value } from '@/core/values';
import { rollUp, rowOf, uuid } from './galleries';
import { inspections, LINE } from './inspections';
import { numbered, RuleDesk } from './rule-desk';

export const MAKING_MODEL = inspections();
export const ARTEFACTS = [uuid('1'), uuid('2'), uuid('3')];
export const INSPECTIONS = [uuid('11'), uuid('12'), uuid('13'), uuid('14')];
/** Fields that follow both ways; the title, which must be entered, only follows. */
export const BOTH_WAYS = ['maker', 'worth'];

export const ALWAYS: Create = { ...LINE, making: 'directly' };
export const COUNT: RuleDefinition = rollUp({
  ...{ type: 'artefact', target: 'treatments', aggregate: 'count', value: null, whenNone: '0' },
  route: [{ direction: 'down', type: 'treatment', link: 'artefact' }],
});

type Values = Readonly<Record<string, Value>>;
export type Act =
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
export const anySaves = fc.array(fc.array(anyAct, { minLength: 1, maxLength: 4 }), {
  minLength: 1,
  maxLength: 8,
});

/** Values that all records of a type are given together. */
export const anyListEdit: fc.Arbitrary<{ readonly type: string; readonly values: Values }> = fc
  .oneof(
    fc.record({ type: fc.constant('artefact'), values: artefact as fc.Arbitrary<Values> }),
    fc.record({ type: fc.constant('inspection'), values: inspection as fc.Arbitrary<Values> }),
  )
  .filter(({ values }) => Object.keys(values).length > 0);

export const MAKING_ROWS = [
  ...ARTEFACTS.map((id, at) =>
    rowOf(MAKING_MODEL, 'artefact', id, {
      ...{ title: `A${at}`, number: new Decimal(at + 1), treatments: new Decimal(0) },
    }),
  ),
  ...INSPECTIONS.map((id, at) =>
    rowOf(MAKING_MODEL, 'inspection', id, { artefact: ARTEFACTS[at % 3]!, outcome: 'watch' }),
  ),
];

/** A few artefacts and inspections in memory, on which people do what they like. */
export class MakingDesk extends RuleDesk {
  constructor(
    rules: readonly RuleDefinition[],
    private readonly isTurned = false,
  ) {
    const inOrder = numbered(rules);
    super(MAKING_MODEL, isTurned ? inOrder.reverse() : inOrder, MAKING_ROWS);
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
