import type { Expression } from '@/core/expression';
import type { Field, ModelDefinition } from '@/core/model';
import type { RollUp, RuleDefinition } from '@/core/rules';
import { Decimal, type Value } from '@/core/values';
import { makeWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { createRule } from '@/server/actions/rules/write-rules';
import { takeLiveTogether } from '@/server/actions/rules/change-state';
import { loadRows, type NewRow } from '@/server/store/schema/load-rows';
import { reloadWorkspace } from '@/server/store/session/workspace';
import { WRENFIELD } from '@/demo/model';

export const TESTER = {
  ...{ id: '00000000-0000-7000-8000-0000000000ee', name: 'Tess Tester' },
  ...{ email: 'tess@oikon.invalid', role: 'Administrator' },
};

/** What loans are insured for in one currency, as the statements by hand have it. */
const inPounds = (field: Field): Field =>
  field.key === 'insuredValue' ? { ...field, type: { kind: 'money', currency: 'GBP' } } : field;

const LOAN = WRENFIELD.types.find(({ key }) => key === 'loan')!;
const { type: STAGE } = LOAN.fields.find(({ key }) => key === 'stage')!;

/** The demo's model with more fields on the exhibition, so that ten roll-ups run over its loans. */
export const MODEL: ModelDefinition = {
  ...WRENFIELD,
  types: WRENFIELD.types.map((type) =>
    type.key === 'exhibition'
      ? {
          ...type,
          fields: [
            ...type.fields,
            { key: 'loanCount', name: 'Loan count', type: { kind: 'number', scale: 0 } },
            { key: 'feeTotal', name: 'Fee total', type: { kind: 'money', currency: 'GBP' } },
            { key: 'lenderCount', name: 'Lender count', type: { kind: 'number', scale: 0 } },
            { key: 'lowestFee', name: 'Lowest fee', type: { kind: 'money', currency: 'GBP' } },
            { key: 'feeRange', name: 'Range of fees', type: { kind: 'money', currency: 'GBP' } },
            { key: 'anyDeclined', name: 'Any declined', type: { kind: 'yesNo' } },
            { key: 'worstStage', name: 'Worst stage', type: STAGE },
            { key: 'lastTitle', name: 'Last loan', type: { kind: 'text' } },
            { key: 'firstTitle', name: 'First loan', type: { kind: 'text' } },
          ],
        }
      : { ...type, fields: type.fields.map(inPounds) },
  ),
};

const over = [{ direction: 'down', type: 'loan', link: 'exhibition' }] as const;
const read = (field: string) => ({ kind: 'field', route: [], field }) as const;
const zero = { amount: '0.00', currency: 'GBP' };
const isAgreed: Expression = {
  ...{ kind: 'compare', operator: '=', left: read('stage') },
  right: { kind: 'constant', value: 'agreed' },
};
export const rollUp = (given: Pick<RollUp, 'target' | 'aggregate'> & Partial<RollUp>): RollUp => ({
  ...{ kind: 'rollUp', type: 'exhibition', route: over, value: null, condition: null, whenNone: null },
  ...{ rounding: null, pace: 'withTheSave' },
  ...given,
});

export const SUM = rollUp({
  ...{
    target: 'insuredTotal',
    aggregate: 'sum',
    value: read('insuredValue'),
    condition: isAgreed,
    whenNone: zero,
  },
});
export const COUNT = rollUp({ target: 'loanCount', aggregate: 'count', condition: isAgreed, whenNone: '0' });
export const FIVE: readonly RollUp[] = [
  SUM,
  COUNT,
  rollUp({ target: 'averageFee', aggregate: 'average', value: read('fee') }),
  rollUp({ target: 'feeTotal', aggregate: 'sum', value: read('fee'), whenNone: zero }),
  rollUp({ target: 'lastDueBack', aggregate: 'maximum', value: read('dueBack'), condition: isAgreed }),
];

export const LOWEST = rollUp({ target: 'lowestFee', aggregate: 'minimum', value: read('fee') });
export const LAST = rollUp({
  ...{ target: 'lastTitle', aggregate: 'last', value: read('title'), order: [read('dueBack')] },
});
/** One of each kind, but for those that go the same way as another. */
export const TEN: readonly RollUp[] = [
  ...[SUM, COUNT, FIVE[2]!, FIVE[4]!, LOWEST, LAST],
  rollUp({ target: 'lenderCount', aggregate: 'countDistinct', value: read('lender'), whenNone: '0' }),
  rollUp({ target: 'feeRange', aggregate: 'range', value: read('fee') }),
  rollUp({
    ...{ target: 'anyDeclined', aggregate: 'any', whenNone: false },
    value: { ...isAgreed, right: { kind: 'constant', value: 'declined' } } as Expression,
  }),
  rollUp({ target: 'worstStage', aggregate: 'worst', value: read('stage') }),
];

const STAGES = ['agreed', 'requested', 'agreed', 'declined'];

export const exhibitionId = (at: number): string =>
  `00000000-0000-7000-9000-${at.toString(16).padStart(12, '0')}`;
export const loanId = (at: number): string => `00000000-0000-7000-a000-${at.toString(16).padStart(12, '0')}`;
const lenderId = (at: number): string => `00000000-0000-7000-b000-${at.toString(16).padStart(12, '0')}`;

const amounts = Array.from({ length: 997 }, (_, at): Value => ({
  amount: new Decimal(at * 1250 + 0.25),
  currency: 'GBP',
}));

export function loanValues(at: number, exhibition: string): Record<string, Value> {
  return {
    title: `Loan ${at}`,
    exhibition,
    lender: lenderId(at % 100),
    stage: STAGES[at % 4]!,
    insuredValue: amounts[at % 997]!,
    fee: at % 5 === 0 ? null : amounts[(at * 7) % 101]!,
    dueBack: `2027-${String((at % 12) + 1).padStart(2, '0')}-15`,
    climate: '18–20 °C',
  };
}

const again = <T>(make: () => Iterator<T>): Iterable<T> => ({ [Symbol.iterator]: make });

export function loans(count: number, exhibitionOf: (at: number) => number): Iterable<NewRow> {
  return again(function* () {
    for (let at = 0; at < count; at += 1)
      yield { id: loanId(at), values: loanValues(at, exhibitionId(exhibitionOf(at))) };
  });
}

/** A hundred exhibitions of 100 loans, then one of 10,000. */
export const SMALL = 100;
export const LARGE_AT = 100;
export const ONE_LARGE = {
  ...{ exhibitions: LARGE_AT + 1, loans: SMALL * LARGE_AT + 10_000 },
  exhibitionOf: (at: number): number => Math.min(Math.floor(at / SMALL), LARGE_AT),
};
export const firstLoanOf = (exhibition: number): number => exhibition * SMALL;

export interface Scale {
  readonly key: string;
  readonly exhibitions: number;
  readonly loans: number;
  readonly exhibitionOf: (at: number) => number;
  readonly rules: readonly RuleDefinition[];
}

/** A workspace of its own with so many records; answers its rules' ids, which are drafts. */
export async function workspaceOf(
  scale: Scale,
): Promise<{ by: { workspace: string; person: string }; rules: string[] }> {
  await removeWorkspace(scale.key);
  await makeWorkspace({
    ...{ key: scale.key, name: scale.key, timeZone: 'Europe/London', settledDay: '2026-11-01' },
    ...{ model: MODEL, people: [TESTER] },
  });
  const loaded = await reloadWorkspace(scale.key);
  const made = (count: number, row: (at: number) => NewRow) =>
    Array.from({ length: count }, (_, at) => row(at));
  await loadRows(
    loaded,
    new Map<string, Iterable<NewRow>>([
      ['institution', made(100, (at) => ({ id: lenderId(at), values: { name: `Lender ${at}` } }))],
      [
        'exhibition',
        made(scale.exhibitions, (at) => ({ id: exhibitionId(at), values: { title: `Exhibition ${at}` } })),
      ],
      ['loan', loans(scale.loans, scale.exhibitionOf)],
    ]),
    TESTER.id,
  );
  const by = { workspace: scale.key, person: TESTER.id };
  const rules: string[] = [];
  for (const definition of scale.rules) rules.push(await createRule({ ...by, definition }));
  return { by, rules };
}

export const goLive = (by: { workspace: string; person: string }, ids: readonly string[]) =>
  takeLiveTogether({ ...by, ids });
