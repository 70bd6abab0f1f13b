import type { Expression } from '@/core/expression';
import type { RollUp, RuleState } from '@/core/rules';
import type { WireValue } from '@/core/values';

export interface DemoRule {
  readonly definition: RollUp;
  /** Left out, it is proposed from the sentence. */
  readonly name?: string;
  readonly note: string;
  readonly state: RuleState;
}

const fieldOf = (field: string, ...route: string[]) => ({ kind: 'field', route, field }) as const;
const is = (field: ReturnType<typeof fieldOf>, value: WireValue): Expression => ({
  kind: 'compare',
  operator: '=',
  left: field,
  right: { kind: 'constant', value },
});
const all = (...of: Expression[]): Expression => ({ kind: 'group', operator: 'all', of });
const zero = { amount: '0.00', currency: 'GBP' };

const rollUp = (
  given: Omit<RollUp, 'kind' | 'pace' | 'rounding' | 'value' | 'condition'> & Partial<RollUp>,
): RollUp => ({
  ...{ kind: 'rollUp', pace: 'withTheSave', rounding: null, value: null, condition: null },
  ...given,
});
const over = (type: string, link: string): RollUp['route'] => [{ direction: 'down', type, link }];

/** The demo's rules, each with what a colleague asked for. They are taken live in this order. */
export const RULES: readonly DemoRule[] = [
  {
    definition: rollUp({
      type: 'loan',
      target: 'artefactCount',
      aggregate: 'count',
      route: over('artefact', 'loan'),
      whenNone: '0',
    }),
    note: 'Elsie Hartnoll: “Show me on each loan how many pieces are in it.”',
    state: 'live',
  },
  {
    definition: rollUp({
      type: 'exhibition',
      target: 'artefactCount',
      aggregate: 'sum',
      route: over('loan', 'exhibition'),
      value: fieldOf('artefactCount'),
      whenNone: '0',
    }),
    note: 'Maren Oduya: “And on each exhibition over all of its loans.”',
    state: 'live',
  },
  {
    definition: rollUp({
      type: 'loan',
      target: 'agreedTotal',
      aggregate: 'sum',
      route: over('artefact', 'loan'),
      value: fieldOf('agreedValue'),
      whenNone: zero,
    }),
    note: 'Priya Ramanathan: “I compare it with what the lender wants insured.”',
    state: 'live',
  },
  {
    definition: rollUp({
      ...{
        type: 'institution',
        target: 'lentTotal',
        aggregate: 'sum',
        route: over('loan', 'lender'),
        value: fieldOf('insuredValue'),
        whenNone: zero,
      },
      condition: all(is(fieldOf('stage'), 'agreed'), {
        kind: 'among',
        operator: 'isNotAmong',
        operand: fieldOf('stage', 'exhibition'),
        options: ['closed'],
      }),
    }),
    note: 'Jonas Achterberg: “What each lender has entrusted to us right now. Exhibitions that have closed don’t count.”',
    state: 'live',
  },
  {
    definition: rollUp({
      type: 'crate',
      target: 'anyFragile',
      aggregate: 'any',
      route: over('artefact', 'crate'),
      value: fieldOf('fragile'),
      whenNone: false,
    }),
    note: 'Priya Ramanathan: “The carrier must see on the crate that something in it is fragile.”',
    state: 'live',
  },
  {
    definition: rollUp({
      type: 'exhibition',
      target: 'lastDueBack',
      aggregate: 'maximum',
      route: over('loan', 'exhibition'),
      value: fieldOf('dueBack'),
      condition: is(fieldOf('stage'), 'agreed'),
      whenNone: null,
    }),
    note: 'Farid Benhaddou: “When does the last loan have to be home?”',
    state: 'draft',
  },
  {
    definition: rollUp({
      type: 'exhibition',
      target: 'averageFee',
      aggregate: 'average',
      route: over('loan', 'exhibition'),
      value: fieldOf('fee'),
      whenNone: null,
    }),
    note: 'Callum Reyes: “Roughly what do lenders charge us?” Paused until the fees of the last year are entered.',
    state: 'paused',
  },
];
