import type { Step } from '@/core/model';
import type { AssignedValue, Assignment, Cascade, ChangeTest } from '@/core/rules';
import type { DemoRule } from './demo-rule';

const down = (type: string, link: string): Step => ({ direction: 'down', type, link });
const up = (link: string): Step => ({ direction: 'up', link });
const when = (...tests: ChangeTest[]): Cascade['moment'] => ({ kind: 'onChange', tests, where: null });
const take = (target: string, value: AssignedValue): Assignment => ({ target, value });
/** From the field of the same key. */
const same = (field: string): Assignment =>
  take(field, { kind: 'expression', expression: { kind: 'field', route: [], field } });
const constant = (value: string): AssignedValue => ({
  ...{ kind: 'expression', expression: { kind: 'constant', value } },
});

const cascade = (given: Omit<Cascade, 'kind' | 'condition' | 'pace'> & Partial<Cascade>): Cascade => ({
  ...{ kind: 'cascade', condition: null, pace: 'withTheSave' },
  ...given,
});

const TO_LOANS = [down('loan', 'exhibition')];

/** Who completes an inspection, and on which day. */
export const COMPLETED: DemoRule = {
  definition: cascade({
    ...{ type: 'inspection', route: [], moment: when({ kind: 'became', field: 'completed', value: true }) },
    only: 'empty',
    assignments: [
      take('inspector', { kind: 'expression', expression: { kind: 'ofRun', what: 'person' } }),
      take('completedOn', { kind: 'expression', expression: { kind: 'feel', text: 'today()' } }),
    ],
  }),
  note: 'Priya Ramanathan: “Whoever ticks it as completed has looked at it, on that day. Unless somebody entered another.”',
  state: 'live',
};

/** Several exhibitions may cascade to a courier: the one that opens last does. */
export const LATEST: DemoRule = {
  definition: cascade({
    ...{ type: 'exhibition', route: [down('assignment', 'exhibition'), up('courier')], moment: 'inStep' },
    order: { field: { kind: 'field', route: [], field: 'opens' }, isLast: true },
    assignments: [
      take('latestExhibition', {
        kind: 'expression',
        expression: { kind: 'field', route: [], field: 'title' },
      }),
      take('latestOpens', { kind: 'expression', expression: { kind: 'field', route: [], field: 'opens' } }),
    ],
  }),
  note: 'Elsie Hartnoll: “Beside each courier I want to read which exhibition is their latest, and when that opens. One goes with several.”',
  state: 'live',
};

/** Values that are cascaded, each with what a colleague asked for. */
export const CASCADES: readonly DemoRule[] = [
  {
    definition: cascade({
      ...{ type: 'exhibition', route: [], moment: when({ kind: 'changed', field: 'coordinator' }) },
      assignments: [take('coordinatorBefore', { kind: 'before', field: 'coordinator' })],
    }),
    note: 'Maren Oduya: “I have to know who looked after it before, to ask.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'exhibition', route: TO_LOANS, moment: when({ kind: 'changed', field: 'coordinator' }) },
      assignments: [same('coordinator'), take('coordinatorBefore', { kind: 'before', field: 'coordinator' })],
    }),
    note: 'Farid Benhaddou: “When I take an exhibition over, every loan of it is mine, whoever had it before. And the one before stands beside it.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'exhibition', route: TO_LOANS, moment: 'inStep' },
      condition: {
        ...{ kind: 'among', operator: 'isNotAmong', options: ['declined'] },
        operand: { kind: 'field', route: [], field: 'stage' },
      },
      assignments: [same('climate')],
    }),
    note: 'Priya Ramanathan: “All loans need the climate of their exhibition, also one that comes later. Not those that were declined.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'exhibition', route: [down('assignment', 'exhibition'), up('courier')] },
      moment: when({ kind: 'became', field: 'stage', value: 'open' }),
      assignments: [take('availability', constant('onTour'))],
    }),
    note: 'Elsie Hartnoll: “Once the exhibition is open all its couriers are on tour, not only the first.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'exhibition', route: [down('assignment', 'exhibition')] },
      moment: when({ kind: 'became', field: 'stage', value: 'open' }),
      assignments: [take('note', { kind: 'text', text: 'With {title} until {closes}' })],
    }),
    note: 'Elsie Hartnoll: “And their assignment says with what, and until when.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'loan', route: [up('exhibition'), down('loan', 'exhibition')], same: ['lender'] },
      moment: when({ kind: 'changed', field: 'courierInstruction' }),
      assignments: [same('courierInstruction')],
    }),
    note: 'Callum Reyes: “What a lender tells the courier goes for all loans of that lender in the exhibition.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'loan', route: [up('exhibition'), down('loan', 'exhibition')], same: ['lender'] },
      ...{ moment: 'atCreation', order: { field: null, isLast: true } },
      assignments: [same('courierInstruction')],
    }),
    note: 'Callum Reyes: “And a new loan starts with what the lender said last.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'exhibition', route: [down('statusSheet', 'exhibition')], moment: 'atCreation' },
      assignments: ['loansMark', 'transportMark', 'installationMark'].map(same),
    }),
    note: 'Maren Oduya: “A new status sheet starts with the marks as they are. What I then type is mine, and old sheets stay as they were.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'loan', route: [up('lender')], moment: when({ kind: 'changed', field: 'stage' }) },
      order: { field: { kind: 'field', route: [], field: 'dueBack' }, isLast: true },
      assignments: [
        take('dealings', {
          ...{ kind: 'map', field: 'stage', otherwise: { kind: 'asItIs' } },
          rows: [
            { from: 'requested', to: 'inTalks' },
            { from: 'agreed', to: 'active' },
            { from: 'returned', to: 'past' },
          ],
        }),
      ],
    }),
    note: 'Jonas Achterberg: “A lender’s dealings follow its loans, not the other way round. If two change at once, the one due back last says.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'exhibition', route: TO_LOANS, moment: when({ kind: 'changed', field: 'languages' }) },
      assignments: [same('languages')],
    }),
    note: 'Tobias Lindqvist: “The label languages go to every loan, also when there are none left.”',
    state: 'live',
  },
  {
    definition: cascade({
      ...{ type: 'shipment', route: [down('crate', 'shipment')] },
      moment: when({ kind: 'became', field: 'stage', value: 'delivered' }),
      assignments: [take('stamp', { kind: 'text', text: 'Delivered: {leg}' })],
    }),
    note: 'Farid Benhaddou: “Every crate of it is stamped then, so nobody looks for it any more.”',
    state: 'live',
  },
];
