import type { WireValue } from '@/core/values';
import { saveEdits } from '@/server/actions/records/save-edits';
import {
  firstLoanOf,
  goLive,
  LARGE_AT,
  LAST,
  loanId,
  LOWEST,
  ONE_LARGE,
  rollUp,
  TESTER,
  workspaceOf,
} from './data';
import { compare, type Figure, timed } from './measure';

const KEY = 'bench-leaders';

const edit = (loan: number, values: Record<string, WireValue>) =>
  timed(() =>
    saveEdits({
      ...{ workspace: KEY, person: TESTER.id },
      edits: [{ kind: 'edit', type: 'loan', id: loanId(loan), values }],
    }),
  );
const fee = (loan: number, amount: string) => edit(loan, { fee: { amount, currency: 'GBP' } });
const due = (loan: number, day: string) => edit(loan, { dueBack: day });
const dayOf = (round: number, at: number): string =>
  `20${28 + (round % 10)}-${String((at % 12) + 1).padStart(2, '0')}-01`;

/** The smallest, largest, first and last under 10,000 children, against the same under 100. */
export async function benchLeaders(): Promise<Figure[]> {
  const { by, rules } = await workspaceOf({
    ...{ key: KEY, ...ONE_LARGE },
    rules: [
      ...[LOWEST, LAST],
      rollUp({ target: 'feeTotal', aggregate: 'maximum', value: LOWEST.value }),
      rollUp({ ...LAST, target: 'firstTitle', aggregate: 'first' }),
    ],
  });
  await goLive(by, rules);
  // One leads in each for good: the lowest and highest fee, the first and last day.
  for (const first of [firstLoanOf(0), firstLoanOf(LARGE_AT)]) {
    await fee(first, '0.01');
    await fee(first + 1, '99999.00');
    await due(first + 2, '2020-01-01');
    await due(first + 3, '2099-01-01');
  }
  const inside = { rounds: 60, warmUp: 10 };
  const untouched = await compare({
    work: 'smallest and largest: an edit that leaves them alone under 10,000 children, against one under 100',
    ...{ must: 1.5, goal: 1.1, ...inside },
    ours: (round) => fee(firstLoanOf(LARGE_AT) + 10 + round, `${500 + round}.50`),
    theirs: (round) => fee(10 + (round % 80), `${500 + round}.50`),
  });
  const unordered = await compare({
    work: 'first and last: an edit that leaves them alone under 10,000 children, against one under 100',
    ...{ must: 1.5, goal: 1.1, ...inside },
    ours: (round) => due(firstLoanOf(LARGE_AT) + 10 + round, dayOf(round, round)),
    theirs: (round) => due(10 + (round % 80), dayOf(round, round)),
  });
  const touched = await compare({
    work: 'the same where the one that led goes back behind others',
    ...{ must: null, goal: null, rounds: 20, warmUp: 2, note: 'all children are gone over again' },
    ours: async (round) => {
      const time = await fee(firstLoanOf(LARGE_AT), `${600 + round}.50`);
      await fee(firstLoanOf(LARGE_AT), '0.01');
      return time;
    },
    theirs: async (round) => {
      const time = await fee(0, `${600 + round}.50`);
      await fee(0, '0.01');
      return time;
    },
  });
  return [untouched, unordered, touched];
}
