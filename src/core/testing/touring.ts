import type { Expression } from '@/core/expression';
import { type Field, type Model, readModel, type Step } from '@/core/model';
import type { Assignment, Cascade, ChangeTest } from '@/core/rules';
import { GALLERIES } from './galleries';

const text = (key: string, name: string): Field => ({ key, name, type: { kind: 'text' } });
const choice = (key: string, name: string, options: readonly string[]): Field => ({
  ...{ key, name },
  type: {
    kind: 'choice',
    options: options.map((of) => ({ key: of, name: of[0]!.toUpperCase() + of.slice(1) })),
  },
});
const LANGUAGES: Field = {
  ...{ key: 'languages', name: 'Label languages' },
  type: { kind: 'choices', options: ['english', 'welsh'].map((key) => ({ key, name: key })) },
};

const MORE: Readonly<Record<string, readonly Field[]>> = {
  institution: [choice('dealings', 'Dealings', ['none', 'talks', 'active', 'past'])],
  exhibition: [
    text('coordinator', 'Coordinator'),
    text('coordinatorBefore', 'Coordinator before'),
    text('climate', 'Climate requirement'),
    choice('phase', 'Phase', ['proposed', 'confirmed', 'open', 'closed']),
    { key: 'closes', name: 'Closes', type: { kind: 'date' } },
    LANGUAGES,
  ],
  loan: [
    text('coordinator', 'Coordinator'),
    text('coordinatorBefore', 'Coordinator before'),
    text('climate', 'Climate requirement'),
    text('instruction', 'Courier instruction'),
    { ...LANGUAGES },
  ],
  artefact: [text('climate', 'Climate requirement')],
};

/** The galleries with what is cascaded in them, couriers, and the assignments that join them with exhibitions. */
export const touring = (): Model =>
  readModel(
    {
      types: [
        ...GALLERIES.types.map((type) => ({ ...type, fields: [...type.fields, ...(MORE[type.key] ?? [])] })),
        {
          ...{ key: 'courier', name: 'Courier', plural: 'Couriers', title: 'title' },
          fields: [
            { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
            choice('availability', 'Availability', ['free', 'onTour']),
            text('told', 'Told'),
          ],
        },
        {
          ...{ key: 'assignment', name: 'Assignment', plural: 'Assignments', title: 'title', bridge: true },
          fields: [
            { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
            ...(['courier', 'exhibition'] as const).map((target): Field => ({
              ...{ key: target, name: target, otherEnd: 'Assignments', type: { kind: 'link', target } },
              ...{ whenParentGoes: 'delete', required: true },
            })),
            text('note', 'Note'),
          ],
        },
      ],
    },
    '2027-03-01',
  );

export const down = (type: string, link: string): Step => ({ direction: 'down', type, link });
export const up = (link: string): Step => ({ direction: 'up', link });

/** From a field of the record that cascades. */
export const from = (target: string, field = target): Assignment => ({
  target,
  value: { kind: 'expression', expression: { kind: 'field', route: [], field } },
});

export const when = (...tests: ChangeTest[]): Cascade['moment'] => ({ kind: 'onChange', tests, where: null });

export const cascade = (
  given: Partial<Cascade> & Pick<Cascade, 'type' | 'route' | 'moment' | 'assignments'>,
): Cascade => ({
  ...{ kind: 'cascade', condition: null, pace: 'withTheSave' },
  ...given,
});

/** A fixed text. */
export const fixed = (target: string, value: string): Assignment => ({
  target,
  value: { kind: 'expression', expression: { kind: 'constant', value } },
});

const TO_LOANS = [down('loan', 'exhibition')];
const isNotDeclined: Expression = {
  ...{ kind: 'among', operator: 'isNotAmong', options: ['declined'] },
  operand: { kind: 'field', route: [], field: 'stage' },
};

/** Values that are cascaded, each of its own kind; they fit together. */
export const CASCADES = {
  coordinator: cascade({
    ...{ type: 'exhibition', route: TO_LOANS, assignments: [from('coordinator')] },
    moment: when({ kind: 'changed', field: 'coordinator' }),
  }),
  before: cascade({
    ...{ type: 'exhibition', route: [], moment: when({ kind: 'changed', field: 'coordinator' }) },
    assignments: [{ target: 'coordinatorBefore', value: { kind: 'before', field: 'coordinator' } }],
  }),
  climate: cascade({
    ...{ type: 'exhibition', route: TO_LOANS, moment: 'inStep', condition: isNotDeclined },
    assignments: [from('climate')],
  }),
  courier: cascade({
    ...{ type: 'exhibition', route: [down('assignment', 'exhibition'), up('courier')] },
    moment: when({ kind: 'became', field: 'phase', value: 'open' }),
    assignments: [fixed('availability', 'onTour')],
  }),
  /** Reads the record across which it goes. */
  told: cascade({
    ...{ type: 'exhibition', route: [down('assignment', 'exhibition'), up('courier')] },
    moment: when({ kind: 'became', field: 'phase', value: 'open' }),
    assignments: [
      fixed('availability', 'onTour'),
      { target: 'told', value: { kind: 'text', text: 'With {title} ({assignment.note})' } },
    ],
  }),
  note: cascade({
    ...{ type: 'exhibition', route: [down('assignment', 'exhibition')] },
    moment: when({ kind: 'became', field: 'phase', value: 'open' }),
    assignments: [{ target: 'note', value: { kind: 'text', text: 'With {title} until {closes}' } }],
  }),
  instruction: cascade({
    ...{ type: 'loan', route: [up('exhibition'), down('loan', 'exhibition')], same: ['lender'] },
    ...{ moment: when({ kind: 'changed', field: 'instruction' }), assignments: [from('instruction')] },
  }),
  dealings: cascade({
    ...{ type: 'loan', route: [up('lender')], moment: when({ kind: 'changed', field: 'stage' }) },
    order: { field: { kind: 'field', route: [], field: 'dueBack' }, isLast: true },
    assignments: [
      {
        target: 'dealings',
        value: {
          ...{ kind: 'map', field: 'stage' },
          rows: [
            { from: 'requested', to: 'talks' },
            { from: 'agreed', to: 'active' },
            { from: 'returned', to: 'past' },
          ],
          otherwise: { kind: 'asItIs' },
        },
      },
    ],
  }),
  languages: cascade({
    ...{ type: 'exhibition', route: TO_LOANS, assignments: [from('languages')] },
    moment: when({ kind: 'changed', field: 'languages' }),
  }),
  newest: cascade({
    ...{ type: 'loan', route: [up('exhibition'), down('loan', 'exhibition')], same: ['lender'] },
    ...{ moment: 'atCreation', order: { field: null, isLast: true }, assignments: [from('instruction')] },
  }),
  starts: cascade({
    ...{
      type: 'exhibition',
      route: TO_LOANS,
      moment: 'atCreation',
      assignments: [from('coordinator'), from('languages')],
    },
  }),
} as const;
