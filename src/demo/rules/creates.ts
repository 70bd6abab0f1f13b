import type { Expression } from '@/core/expression';
import type { Assignment, Create } from '@/core/rules';
import type { WireValue } from '@/core/values';
import type { DemoRule } from './demo-rule';

const own = (field: string) => ({ kind: 'field', route: [], field }) as const;
const all = (...of: Expression[]): Expression => ({ kind: 'group', operator: 'all', of });
const is = (field: string, value: WireValue, operator: '=' | '>=' = '='): Expression => ({
  ...{ kind: 'compare', operator, left: own(field) },
  right: { kind: 'constant', value },
});
/** From a field of the record. */
const take = (target: string, field = target): Assignment => ({
  target,
  value: { kind: 'expression', expression: own(field) },
});
const say = (target: string, text: string): Assignment => ({ target, value: { kind: 'text', text } });

const TREATMENT: Create = {
  ...{
    kind: 'create',
    type: 'inspection',
    makes: 'treatment',
    pace: 'withTheSave',
    mayAsk: true,
    each: 'once',
  },
  condition: all(
    { kind: 'presence', operator: 'isNotEmpty', operand: own('artefact') },
    is('completed', true),
    is('byPhoto', false),
    is('outcome', 'damage'),
  ),
  ...{ back: 'inspection', forward: null },
  assignments: [
    say('title', 'Treat {artefact.title}'),
    take('artefact'),
    take('foundOn', 'completedOn'),
    take('foundBy', 'inspector'),
    take('finding'),
  ],
  ...{ making: 'directly', following: 'not', returning: 'not', afterwards: 'left' },
};

const INSURANCE: Create = {
  ...{ kind: 'create', type: 'artefact', makes: 'insuranceLine', pace: 'withTheSave', each: 'once' },
  condition: all(
    {
      ...{ kind: 'among', operator: 'isAmong', operand: own('objectKind') },
      options: ['textile', 'instrument', 'workOnPaper'],
    },
    is('agreedValue', { amount: '40000.00', currency: 'GBP' }, '>='),
  ),
  ...{ back: 'artefact', forward: 'insuranceLine' },
  assignments: [take('title'), take('maker'), take('agreedValue'), say('artefactNumber', '{number}')],
  gives: [say('insuranceNumber', '{number}')],
  making: {
    ...{ field: 'objectKind', otherwise: 'not' },
    rows: [
      { from: 'instrument', way: 'directly' },
      { from: 'textile', way: 'proposal' },
      { from: 'workOnPaper', way: 'both' },
    ],
  },
  ...{ following: 'directly', returning: 'directly' },
  afterwards: { kind: 'marked', field: 'state', value: 'ended' },
};

/** Records that are made for others, each with what a colleague asked for. */
export const MAKERS: readonly DemoRule[] = [
  {
    definition: TREATMENT,
    name: 'Treatment of what is damaged',
    note: 'Priya Ramanathan: “When we look at a piece and it is damaged, the conservators must have it on their list, with what was found. Not from photographs: those we look at again. And I want to ask for one myself.”',
    state: 'live',
    actsOnMatching: true,
  },
  {
    definition: INSURANCE,
    name: 'Insurance line of what is valuable',
    tells: 'Callum Reyes',
    note: 'Callum Reyes: “Instruments of 40,000 and more go on the policy at once. Textiles I want to see first, works on paper just tell me. Whatever either of us changes, the other has it.”',
    state: 'live',
    actsOnMatching: true,
  },
];
