import type { Pace } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Rule } from '@/core/rules';
import {
  decimal,
  EXHIBITION_ARTEFACTS,
  fieldOf,
  galleries,
  gbp,
  INSURED_TOTAL,
  rollUp,
  rowOf,
  ruleOf,
  uuid,
} from '@/core/testing/galleries';
import { type Edit, MemoryStore, propagate, type PropagateInput, runInMemory } from '@/core/engine';

const model = galleries();
const [silk, one, two] = [uuid('11'), uuid('21'), uuid('22')];
const loan = (id: string, amount: number) =>
  rowOf(model, 'loan', id, { exhibition: silk, stage: 'agreed', insuredValue: gbp(amount) });
const at = (pace: Pace): Rule => ruleOf({ ...INSURED_TOTAL, pace }, 1);

function stored(
  rules: readonly Rule[],
  rows = [rowOf(model, 'exhibition', silk, {}), loan(one, 5), loan(two, 7)],
) {
  const { plan, problems } = buildPlan(model, rules);
  expect(problems).toEqual([]);
  const store = new MemoryStore(model, true);
  rows.forEach((row) => store.put(row));
  const run = (input: Partial<PropagateInput>) => {
    const outcome = runInMemory(model, store, propagate({ model, plan, edits: [], ...input }));
    if (outcome.kind === 'refused') throw new Error(outcome.problems[0]!.message);
    return outcome.ripple;
  };
  run({ fill: plan.rules.map(({ id }) => id) });
  return { store, run, total: () => store.row('exhibition', silk)!.values.insuredTotal };
}

const valued = (id: string, amount: string): Edit => ({
  ...{ kind: 'edit', type: 'loan', id, values: { insuredValue: gbp(amount) } },
});

test('a save leaves a rule of a slower pace as it is and says what waits; its turn works it out', () => {
  const { run, total } = stored([at('soonAfter')]);
  const left = run({ edits: [valued(one, '6')] });
  expect(left.changes.map(({ field }) => field)).toEqual(['insuredValue']);
  expect(left.later).toEqual([{ rule: uuid('a1'), type: 'exhibition', ids: [silk] }]);
  expect(total()).toEqual(gbp('12'));
  const brought = run({ due: new Map([[uuid('a1'), [silk]]]) });
  expect(brought.changes).toMatchObject([{ field: 'insuredTotal', before: gbp('12'), after: gbp('13') }]);
  expect(brought.later).toEqual([]);
});

test('a rehearsal shows what follows in the end, whatever the pace', () => {
  const { run } = stored([at({ kind: 'timetable', every: 'day', at: '06:00' })]);
  const ripple = run({ edits: [valued(one, '6')], isEveryPace: true });
  expect(ripple.changes.map(({ field }) => field)).toEqual(['insuredValue', 'insuredTotal']);
  expect(ripple.later).toEqual([]);
});

test('a yes/no field that turns yes asks for it: on that record, once, with what else waits left waiting', () => {
  const other = uuid('12');
  const rows = [
    rowOf(model, 'exhibition', silk, {}),
    rowOf(model, 'exhibition', other, {}),
    loan(one, 5),
    { ...loan(two, 7), values: { ...loan(two, 7).values, exhibition: other } },
  ];
  const { store, run, total } = stored([at({ kind: 'onRequest', field: 'open' })], rows);
  const asks = (open: boolean | null): Edit => ({
    ...{ kind: 'edit', type: 'exhibition', id: silk, values: { open } },
  });
  run({ edits: [valued(one, '6'), valued(two, '8')] });
  expect(total()).toEqual(gbp('5'));
  expect(run({ edits: [asks(true)] }).changes.map(({ field }) => field)).toEqual(['open', 'insuredTotal']);
  expect(total()).toEqual(gbp('6'));
  expect(store.row('exhibition', other)!.values.insuredTotal).toEqual(gbp('7'));
  // That it stays yes, or is taken back, asks for nothing.
  run({ edits: [valued(one, '9')] });
  run({ edits: [asks(null)] });
  expect(total()).toEqual(gbp('6'));
  // A change that comes with the request counts.
  run({ edits: [asks(true), valued(one, '10')] });
  expect(total()).toEqual(gbp('10'));
});

test('rules with the save that read a slower one go by what stands there, and follow when it comes round', () => {
  const doubled = ruleOf(
    {
      ...{
        kind: 'formula',
        type: 'exhibition',
        target: 'averageInsured',
        appliesWhen: null,
        otherwise: null,
      },
      ...{ value: { kind: 'feel', text: 'insuredTotal * 2' }, rounding: null, pace: 'withTheSave' },
    },
    2,
  );
  const { store, run } = stored([at('soonAfter'), doubled]);
  const double = () => store.row('exhibition', silk)!.values.averageInsured;
  run({ edits: [valued(one, '6')] });
  expect(double()).toEqual(gbp('24'));
  const brought = run({ due: new Map([[uuid('a1'), [silk]]]) });
  expect(brought.changes.map(({ field, wave }) => [field, wave])).toEqual([
    ['insuredTotal', 1],
    ['averageInsured', 2],
  ]);
  expect(double()).toEqual(gbp('26'));
});

describe('all the way down', () => {
  const [top, middle, low] = [uuid('31'), uuid('32'), uuid('33')];
  const within = (id: string, partOf: string | null) => rowOf(model, 'institution', id, { partOf });
  const rows = [within(top, null), within(middle, top), within(low, middle)];
  const beneath = (pace: Pace) =>
    ruleOf(
      rollUp({
        ...{ type: 'institution', target: 'partCount', aggregate: 'count', whenNone: '0', pace },
        route: [{ direction: 'down', type: 'institution', link: 'partOf' }],
        also: [
          {
            route: [{ direction: 'down', type: 'institution', link: 'partOf' }],
            ...{ value: fieldOf('partCount'), condition: null },
          },
        ],
      }),
      1,
    );
  const made = {
    ...{ kind: 'create', type: 'institution', id: uuid('34') },
    values: { title: 'New', partOf: low },
  };

  test('all that lies above what changed waits too; a turn of one brings what lies beneath it up to date', () => {
    const { store, run } = stored([beneath('soonAfter')], rows);
    const counts = () =>
      [top, middle, low].map((id) => String(store.row('institution', id)!.values.partCount));
    expect(counts()).toEqual(['2', '1', '0']);
    const { later } = run({ edits: [made as Edit] });
    expect(new Set(later[0]!.ids)).toEqual(new Set([uuid('34'), low, middle, top]));
    expect(counts()).toEqual(['2', '1', '0']);
    run({ due: new Map([[uuid('a1'), [middle]]]) });
    expect(counts().slice(1)).toEqual(['2', '1']);
  });
});

test('a field that another rule of the same link writes may ask', () => {
  const whether = ruleOf(
    rollUp({
      ...{ type: 'exhibition', target: 'open', aggregate: 'any', value: fieldOf('fragile') },
      route: [
        { direction: 'down', type: 'loan', link: 'exhibition' },
        { direction: 'down', type: 'artefact', link: 'loan' },
      ],
    }),
    2,
  );
  const count = ruleOf({ ...EXHIBITION_ARTEFACTS, pace: { kind: 'onRequest', field: 'open' } }, 3);
  const vase = uuid('41');
  const rows = [
    rowOf(model, 'exhibition', silk, {}),
    loan(one, 5),
    rowOf(model, 'artefact', vase, { loan: one, fragile: false }),
  ];
  const { run } = stored([whether, count], rows);
  run({ edits: [{ ...{ kind: 'edit', type: 'loan', id: one }, values: { artefactCount: decimal(3) } }] });
  const ripple = run({
    edits: [{ ...{ kind: 'edit', type: 'artefact', id: vase }, values: { fragile: true } }],
  });
  expect(ripple.changes.map(({ field }) => field)).toEqual(['fragile', 'open', 'artefactCount']);
});
