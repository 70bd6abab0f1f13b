import { MOST_TEXT } from '@/core/expression';
import { LAST_PRECEDENCE, MOST_IN_PILOT } from '@/core/rules';
import { DAY_BASES, DAY_UNITS, MOST_AWAY } from '@/core/values';
import Joi from 'joi';
import { byKind, id, key, kindIs, uuid, wire } from './parts';

const field = Joi.object({
  kind: Joi.valid('field').required(),
  route: Joi.array().items(key).max(6).required(),
  field: key.required(),
});
/** Among rules that react into one field; see `precedenceOf`. */
const precedence = Joi.number().integer().min(1).max(LAST_PRECEDENCE);

// Not the name of a key: a schema's ids and the keys beside it must differ.
const EXPRESSION = 'anyExpression';
const part = Joi.link(`#${EXPRESSION}`);
export const expression = Joi.alternatives()
  .conditional(
    '.kind',
    byKind([
      { is: 'constant', then: Joi.object({ kind: Joi.string(), value: wire.required() }) },
      { is: 'field', then: field },
      {
        is: 'compare',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('=', '!=', '<', '<=', '>', '>=').required(),
          left: part.required(),
          right: part.required(),
        }),
      },
      {
        is: 'presence',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('isEmpty', 'isNotEmpty').required(),
          operand: part.required(),
        }),
      },
      {
        is: 'among',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('isAmong', 'isNotAmong').required(),
          operand: part.required(),
          options: Joi.array().items(wire).max(200).required(),
        }),
      },
      {
        is: 'match',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('contains', 'startsWith').required(),
          operand: part.required(),
          part: part.required(),
        }),
      },
      {
        is: 'group',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('all', 'any', 'none').required(),
          of: Joi.array().items(part).max(200).required(),
        }),
      },
      {
        is: 'day',
        then: Joi.object({
          kind: Joi.string(),
          from: Joi.valid(...DAY_BASES).required(),
          plus: Joi.number().integer().min(-MOST_AWAY).max(MOST_AWAY).required(),
          unit: Joi.valid(...DAY_UNITS).required(),
          financialYear: Joi.object({
            month: Joi.number().integer().min(1).max(12).required(),
            day: Joi.number().integer().min(1).max(28).required(),
          }),
        }),
      },
      {
        is: 'ofRun',
        then: Joi.object({ kind: Joi.string(), what: Joi.valid('person', 'moment').required() }),
      },
      { is: 'feel', then: Joi.object({ kind: Joi.string(), text: Joi.string().max(MOST_TEXT).required() }) },
      {
        is: 'selection',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('isIn', 'isNotIn').required(),
          route: Joi.array().items(key).max(6).required(),
          selection: key.required(),
        }),
      },
    ]),
  )
  .id(EXPRESSION);

/** An expression or nothing, left out or not: one schema for all places, since those that have an id must be the same. */
const written = expression.allow(null);

const step = Joi.alternatives().conditional('.direction', {
  is: 'up',
  then: Joi.object({ direction: Joi.string(), link: key.required() }),
  otherwise: Joi.object({
    direction: Joi.valid('down').required(),
    type: key.required(),
    link: key.required(),
  }),
});

/** Records that are brought together; see `RollUpSource`. */
const source = {
  route: Joi.array().items(step).min(1).max(6).required(),
  value: written,
  condition: written,
  isEveryWay: Joi.boolean(),
  order: Joi.array().items(field).max(2),
};

export const rounding = Joi.object({
  mode: Joi.valid('nearest', 'up', 'down').required(),
  places: Joi.number().integer().min(0).max(20).required(),
  step: Joi.string().max(30),
})
  .allow(null)
  .required();

export const limits = Joi.object({
  least: Joi.string().max(60).allow(null),
  most: Joi.string().max(60).allow(null),
}).allow(null);

const timetable = Joi.object({
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
const map = Joi.object({
  rows: Joi.array()
    .items(
      Joi.object({
        operator: Joi.valid('=', '!=', '<', '<=', '>', '>=').required(),
        than: wire.required(),
        writes: wire.required(),
      }),
    )
    .min(1)
    .max(50)
    .required(),
  otherwise: asItIsOrWrites.required(),
}).allow(null);

const rollUp = Joi.object({
  kind: Joi.valid('rollUp').required(),
  type: key.required(),
  target: key.required(),
  aggregate: key.required(),
  ...source,
  also: Joi.array().items(Joi.object(source)).max(8),
  own: Joi.object({
    adds: field.allow(null),
    standsIn: field.allow(null),
    whenNone: field.allow(null),
  }),
  together: Joi.array()
    .items(
      Joi.object({ target: key.required(), values: Joi.array().items(written).min(1).max(9).required() }),
    )
    .max(8),
  joining: Joi.object({
    separator: Joi.string().allow('').max(20).required(),
    isDistinct: Joi.boolean(),
    most: Joi.number().integer().min(1).max(1_000).allow(null),
  }),
  whenNone: wire.required(),
  ...{ rounding, limits, map },
  appliesWhen: written,
  precedence,
  pace,
});

const formula = Joi.object({
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

const moment = Joi.alternatives().conditional(Joi.string(), {
  then: Joi.valid('inStep', 'atCreation'),
  otherwise: Joi.object({
    kind: Joi.valid('onChange').required(),
    tests: Joi.array().items(changeTest).min(1).max(10).required(),
    where: written,
  }),
});

/** What is cascaded; see `AssignedValue`. */
const assigned = Joi.alternatives().conditional(
  '.kind',
  byKind([
    { is: 'expression', then: Joi.object({ kind: Joi.string(), expression: written }) },
    { is: 'before', then: Joi.object({ kind: Joi.string(), field: key.required() }) },
    {
      is: 'map',
      then: Joi.object({
        kind: Joi.string(),
        field: key.required(),
        rows: Joi.array()
          .items(Joi.object({ from: wire.required(), to: wire.required() }))
          .min(1)
          .max(50)
          .required(),
        otherwise: asItIsOrWrites.required(),
      }),
    },
    { is: 'text', then: Joi.object({ kind: Joi.string(), text: Joi.string().max(500).required() }) },
    { is: 'empty', then: Joi.object({ kind: Joi.string() }) },
  ]),
);

const assignment = Joi.object({ target: key.required(), value: assigned.required(), isOff: Joi.boolean() });

const cascade = Joi.object({
  kind: Joi.valid('cascade').required(),
  type: key.required(),
  route: Joi.array().items(step).max(4).required(),
  isAllTheWay: Joi.boolean(),
  same: Joi.array().items(key).max(4).unique(),
  condition: written,
  moment: moment.required(),
  only: Joi.valid('all', 'empty', 'oldValue'),
  order: Joi.object({ field: field.allow(null).required(), isLast: Joi.boolean().required() }),
  assignments: Joi.array().items(assignment).min(1).max(20).required(),
  precedence,
  pace,
});

const WAYS = ['directly', 'proposal', 'both', 'not'];

/** How something is done; see `ExecutionModeBy`. */
const way = Joi.alternatives()
  .conditional(Joi.string(), {
    then: Joi.valid(...WAYS),
    otherwise: Joi.object({
      field: key.required(),
      rows: Joi.array()
        .items(Joi.object({ from: wire.required(), way: Joi.valid(...WAYS).required() }))
        .max(50)
        .required(),
      otherwise: Joi.valid(...WAYS).required(),
    }),
  })
  .required();

const create = Joi.object({
  kind: Joi.valid('create').required(),
  type: key.required(),
  condition: written,
  pace,
  mayAsk: Joi.boolean(),
  each: Joi.valid('once', 'everyTime').required(),
  makes: key.required(),
  back: key.allow(null).required(),
  forward: key.allow(null).required(),
  assignments: Joi.array().items(assignment).max(40).required(),
  gives: Joi.array().items(assignment).max(40),
  ...{ making: way, following: way, returning: way },
  tells: id.allow(null),
  afterwards: Joi.alternatives()
    .conditional(Joi.string(), {
      then: Joi.valid('left', 'unlinked', 'removed'),
      otherwise: Joi.object({
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
  then: Joi.object({
    kind: Joi.string(),
    keys: Joi.array()
      .items(Joi.object({ field: key.required(), value: written }))
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
  otherwise: Joi.object({
    kind: Joi.valid('route').required(),
    route: Joi.array().items(key).min(1).max(4).required(),
    topmost: key.allow(null).required(),
    whenNoneAbove: Joi.valid('itself', 'empty').required(),
  }),
});

const linkRule = Joi.object({
  kind: Joi.valid('link').required(),
  type: key.required(),
  target: key.required(),
  appliesWhen: written,
  find: find.required(),
  holds: Joi.valid('always', 'whereEmpty').required(),
  none: Joi.valid('leave', 'clear').required(),
  pace,
  tells: id.allow(null),
});

/** A rule of any kind, as it is written. */
export const definition = Joi.alternatives().conditional(
  '.kind',
  byKind([
    { is: 'rollUp', then: rollUp },
    { is: 'formula', then: formula },
    { is: 'cascade', then: cascade },
    { is: 'create', then: create },
    { is: 'link', then: linkRule },
  ]),
);

/** For which records a rule runs at first. */
export const pilot = Joi.alternatives()
  .conditional(
    '.kind',
    byKind([
      kindIs('records', { ids: Joi.array().items(uuid).min(1).max(MOST_IN_PILOT).unique().required() }),
      kindIs('selection', { selection: key.required() }),
    ]),
  )
  .allow(null);
