import { OWN_FIELDS, type Row } from '@/core/engine';
import { readModel, typeIn } from '@/core/model';
import { buildPlan } from '@/core/plan';
import { type CompiledFormula, type Formula, formulaOutcome } from '@/core/rules';
import { Decimal, divide, isMoney, type Money, round, type Value } from '@/core/values';
import { exhibitionId, loanId, loanValues, MODEL } from './data';
import { compare, type Figure, timed } from './measure';

const LOANS = 100_000;
const ROUNDS_OVER = 10;

const model = readModel(MODEL);

const LEVY: Formula = {
  ...{ kind: 'formula', type: 'loan', target: 'fee', appliesWhen: null, otherwise: null, rounding: null },
  value: {
    kind: 'feel',
    text: 'if stage = "agreed" and insuredValue != null then insuredValue * 0.035 * 1.1 - insuredValue / 400 else null',
  },
  pace: 'withTheSave',
};

const rowOf = (at: number): Row => ({
  ...{ type: 'loan', id: loanId(at), version: 1, deleted: false, errors: {} },
  values: {
    ...Object.fromEntries(typeIn(model, 'loan').fields.map(({ key }) => [key, null])),
    ...loanValues(at, exhibitionId(Math.floor(at / 100))),
  },
});

const [RATE, TIMES, PARTS] = ['0.035', '1.1', '400'].map((digits) => new Decimal(digits)) as [
  Decimal,
  Decimal,
  Decimal,
];

/** The same as a person would write it, with the same decimals: rounded to pence. */
function byHand({ values }: Row): Value {
  const insured = values.insuredValue ?? null;
  if (values.stage !== 'agreed' || !isMoney(insured)) return null;
  const amount = insured.amount.times(RATE).times(TIMES).minus(divide(insured.amount, PARTS));
  return { amount: round(amount, { mode: 'nearest', places: 2 }), currency: insured.currency };
}

/** A million evaluations: a hundred thousand loans, ten times. */
export async function benchFormulas(): Promise<Figure[]> {
  const { plan, problems } = buildPlan(model, [{ id: 'levy', version: '', name: 'Levy', definition: LEVY }]);
  const [rule] = plan.rules as readonly CompiledFormula[];
  if (!rule) throw new Error(problems.map(({ message }) => message).join(' '));
  const rows = Array.from({ length: LOANS }, (_, at) => rowOf(at));
  for (const row of rows.slice(0, 1_000)) {
    const [ours, theirs] = [formulaOutcome(rule, row, OWN_FIELDS), byHand(row)];
    const amount = typeof ours === 'object' && 'value' in ours ? (ours.value as Money | null) : undefined;
    if (String(amount?.amount ?? null) !== String((theirs as Money | null)?.amount ?? null))
      throw new Error('The two don’t give the same');
  }
  const over = (work: (row: Row) => unknown) => () =>
    timed(() => {
      for (let round = 0; round < ROUNDS_OVER; round += 1) for (const row of rows) work(row);
    });
  return [
    await compare({
      work: '1,000,000 formula evaluations in memory',
      ...{ must: 3, goal: 2, rounds: 7, warmUp: 2 },
      note: 'against the same formula in TypeScript, with the same decimals',
      ours: over((row) => formulaOutcome(rule, row, OWN_FIELDS)),
      theirs: over(byHand),
    }),
  ];
}
