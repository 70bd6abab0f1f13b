import type { Timetable } from '@/core/model';
import {
  type Afterwards,
  type AssignedValue,
  type Assignment,
  type Cascade,
  type Create,
  type ExecutionMode,
  type ExecutionModeBy,
  type Finding,
  type Formula,
  type Joining,
  type LinkRule,
  type MatchKey,
  MOST_IN_PILOT,
  type OnChange,
  type OwnValues,
  type Pilot,
  type ResultMap,
  type RollUp,
  type RollUpSource,
  type RuleDefinition,
  type OptionTarget,
  type PerOption,
  type Together,
} from '@/core/rules';
import { type Limits, type Rounding, type RoundingMode } from '@/core/values';
import Joi from 'joi';
import { byKind, type Forms, id, key, oneOf, shape, shapesByKind, uuid, wire } from './parts';
import { COMPARES, precedence, written } from './expression';
import { field } from './expression';

const stepWith = (further: Joi.SchemaMap) =>
  Joi.alternatives().conditional('.direction', {
    is: 'up',
    then: Joi.object({ direction: Joi.string(), link: key.required() }),
    otherwise: Joi.object({
      direction: Joi.valid('down').required(),
      type: key.required(),
      link: key.required(),
      ...further,
    }),
  });
const step = stepWith({});

/** Records that are brought together; see `RollUpSource`. */
const source: Forms<RollUpSource> = {
  route: Joi.array()
    .items(stepWith({ isAllTheWay: Joi.valid(true) }))
    .min(1)
    .max(6)
    .required(),
  value: written,
  condition: written,
  isEveryWay: Joi.boolean(),
  order: Joi.array().items(field).max(2),
};

export const rounding = shape<Rounding>({
  mode: oneOf<RoundingMode>({ nearest: true, up: true, down: true }).required(),
  places: Joi.number().integer().min(0).max(20).required(),
  step: Joi.string().max(30),
})
  .allow(null)
  .required();

export const limits = shape<Limits>({
  least: Joi.string().max(60).allow(null),
  most: Joi.string().max(60).allow(null),
}).allow(null);

const timetable = shape<Timetable>({
  kind: Joi.string(),
  every: Joi.valid('hour', 'day', 'week', 'month').required(),
  at: Joi.string()
    .pattern(/^([01]\d|2[0-3]):[0-5]\d$/, 'hour and minute, as 06:00')
    .required(),
  weekday: Joi.number().integer().min(1).max(7),
  day: Joi.number().integer().min(1).max(28),
});

/** See `Pace`; of a default without a field of a type. */
const paceWith = (asked: Joi.Schema) =>
  Joi.alternatives()
    .conditional(Joi.string(), {
      then: Joi.valid('withTheSave', 'soonAfter'),
      otherwise: Joi.alternatives().conditional('.kind', {
        is: 'timetable',
        then: timetable,
        otherwise: Joi.object({ kind: Joi.valid('onRequest').required(), field: asked }),
      }),
    })
    .required();

const pace = paceWith(key.allow(null).required());

export const defaultPace = paceWith(Joi.valid(null).required());

/** What stands where no row of a table holds. */
const asItIsOrWrites = Joi.alternatives().conditional('.kind', {
  is: 'asItIs',
  then: Joi.object({ kind: Joi.string() }),
  otherwise: Joi.object({ kind: Joi.valid('writes').required(), value: wire.required() }),
});

/** From the result to what is written; see `ResultMap`. */
const map = shape<ResultMap>({
  rows: Joi.array()
    .items(
      Joi.object({
        operator: COMPARES.required(),
        than: wire.required(),
        writes: wire.required(),
      }),
    )
    .min(1)
    .max(50)
    .required(),
  otherwise: asItIsOrWrites.required(),
}).allow(null);

const rollUp = shape<RollUp>({
  kind: Joi.valid('rollUp').required(),
  type: key.required(),
  target: key.required(),
  aggregate: key.required(),
  ...source,
  also: Joi.array().items(shape<RollUpSource>(source)).max(8),
  own: shape<OwnValues>({
    adds: field.allow(null),
    standsIn: field.allow(null),
    whenNone: field.allow(null),
  }),
  together: Joi.array()
    .items(
      shape<Together>({
        target: key.required(),
        values: Joi.array().items(written).min(1).max(9).required(),
      }),
    )
    .max(8),
  perOption: shape<PerOption>({
    by: field.required(),
    option: key.allow(null).required(),
    others: Joi.array()
      .items(shape<OptionTarget>({ option: key.allow(null).required(), target: key.required() }))
      .max(30)
      .required(),
  }),
  joining: shape<Joining>({
    separator: Joi.string().allow('').max(20).required(),
    isDistinct: Joi.boolean(),
    isFromLast: Joi.boolean(),
    most: Joi.number().integer().min(1).max(1_000).allow(null),
  }),
  percent: Joi.number().integer().min(1).max(99),
  whenNone: wire.required(),
  ...{ rounding, limits, map },
  appliesWhen: written,
  precedence,
  pace,
});

const formula = shape<Formula>({
  kind: Joi.valid('formula').required(),
  type: key.required(),
  target: key.required(),
  value: written,
  appliesWhen: written,
  otherwise: written,
  ...{ rounding, limits, pace },
});

/** What changed of the record that cascades; see `ChangeTest`. */
const changeTest = Joi.alternatives().conditional('.kind', {
  is: Joi.valid('became', 'stoppedBeing'),
  then: Joi.object({ kind: Joi.string(), field: key.required(), value: wire.required() }),
  otherwise: Joi.object({ kind: Joi.valid('changed', 'rose', 'fell').required(), field: key.required() }),
});

export const moment = Joi.alternatives().conditional(Joi.string(), {
  then: Joi.valid('inStep', 'atCreation'),
  otherwise: shape<OnChange>({
    kind: Joi.valid('onChange').required(),
    tests: Joi.array().items(changeTest).min(1).max(10).required(),
    where: written,
  }),
});

/** What is cascaded; see `AssignedValue`. */
const assigned = Joi.alternatives().conditional(
  '.kind',
  shapesByKind<AssignedValue>({
    expression: { expression: written },
    before: { field: key.required() },
    map: {
      field: key.required(),
      rows: Joi.array()
        .items(Joi.object({ from: wire.required(), to: wire.required() }))
        .min(1)
        .max(50)
        .required(),
      otherwise: asItIsOrWrites.required(),
    },
    text: { text: Joi.string().max(500).required() },
    empty: {},
  }),
);

const assignment = shape<Assignment>({
  target: key.required(),
  value: assigned.required(),
  isOff: Joi.boolean(),
});

const cascade = shape<Cascade>({
  kind: Joi.valid('cascade').required(),
  type: key.required(),
  route: Joi.array().items(step).max(4).required(),
  isAllTheWay: Joi.boolean(),
  same: Joi.array().items(key).max(4).unique(),
  condition: written,
  moment: moment.required(),
  only: oneOf<NonNullable<Cascade['only']>>({ all: true, empty: true, oldValue: true }),
  order: shape<NonNullable<Cascade['order']>>({
    field: field.allow(null).required(),
    isLast: Joi.boolean().required(),
  }),
  assignments: Joi.array().items(assignment).min(1).max(20).required(),
  precedence,
  pace,
});

const WAY = oneOf<ExecutionMode>({ directly: true, proposal: true, both: true, not: true });

/** How something is done; see `ExecutionModeBy`. */
const way = Joi.alternatives()
  .conditional(Joi.string(), {
    then: WAY,
    otherwise: shape<Exclude<ExecutionModeBy, string>>({
      field: key.required(),
      rows: Joi.array()
        .items(Joi.object({ from: wire.required(), way: WAY.required() }))
        .max(50)
        .required(),
      otherwise: WAY.required(),
    }),
  })
  .required();

const create = shape<Create>({
  kind: Joi.valid('create').required(),
  type: key.required(),
  condition: written,
  pace,
  mayAsk: Joi.boolean(),
  each: oneOf<Create['each']>({ once: true, everyTime: true }).required(),
  makes: key.required(),
  back: key.allow(null).required(),
  forward: key.allow(null).required(),
  assignments: Joi.array().items(assignment).max(40).required(),
  gives: Joi.array().items(assignment).max(40),
  ...{ making: way, following: way, returning: way },
  tells: id.allow(null),
  afterwards: Joi.alternatives()
    .conditional(Joi.string(), {
      then: oneOf<Extract<Afterwards, string>>({ left: true, unlinked: true, removed: true }),
      otherwise: shape<Exclude<Afterwards, string>>({
        kind: Joi.valid('marked').required(),
        field: key.required(),
        value: wire.required(),
      }),
    })
    .required(),
});

/** How a record is found that a link names; see `Finding`. */
const find = Joi.alternatives().conditional('.kind', {
  is: 'match',
  then: shape<Extract<Finding, { readonly kind: 'match' }>>({
    kind: Joi.string(),
    keys: Joi.array()
      .items(shape<MatchKey>({ field: key.required(), value: written }))
      .min(1)
      .max(4)
      .required(),
    ignoresCase: Joi.boolean().required(),
    condition: written,
    several: Joi.valid('first', 'ask').required(),
    order: Joi.object({ field: field.allow(null).required(), isLast: Joi.boolean().required() })
      .allow(null)
      .required(),
  }),
  otherwise: shape<Extract<Finding, { readonly kind: 'route' }>>({
    kind: Joi.valid('route').required(),
    route: Joi.array().items(key).min(1).max(4).required(),
    topmost: key.allow(null).required(),
    whenNoneAbove: Joi.valid('itself', 'empty').required(),
  }),
});

const linkRule = shape<LinkRule>({
  kind: Joi.valid('link').required(),
  type: key.required(),
  target: key.required(),
  appliesWhen: written,
  find: find.required(),
  holds: oneOf<LinkRule['holds']>({ always: true, whereEmpty: true }).required(),
  none: oneOf<LinkRule['none']>({ leave: true, clear: true }).required(),
  pace,
  tells: id.allow(null),
});

const DEFINITIONS = { rollUp, formula, cascade, create, link: linkRule } satisfies {
  readonly [K in RuleDefinition['kind']]: Joi.ObjectSchema<Extract<RuleDefinition, { readonly kind: K }>>;
};

/** A rule of any kind, as it is written. */
export const definition = Joi.alternatives().conditional(
  '.kind',
  byKind(Object.entries(DEFINITIONS).map(([kind, then]) => ({ is: kind, then }))),
);

/** For which records a rule runs at first. */
export const pilot = Joi.alternatives()
  .conditional(
    '.kind',
    shapesByKind<Pilot>({
      records: { ids: Joi.array().items(uuid).min(1).max(MOST_IN_PILOT).unique().required() },
      selection: { selection: key.required() },
    }),
  )
  .allow(null);
