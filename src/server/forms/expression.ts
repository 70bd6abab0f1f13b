import type {
  AmongOperator,
  CompareOperator,
  Expression,
  FieldRead,
  GroupOperator,
  MatchOperator,
  OfRun,
  PresenceOperator,
  SelectionOperator,
} from '@/core/syntax/expression';
import { MOST_TEXT } from '@/core/expression';
import { LAST_PRECEDENCE } from '@/core/rules';
import { DAY_BASES, DAY_UNITS, type DayOfYear, MOST_AWAY } from '@/core/values';
import Joi from 'joi';
import { key, oneOf, shape, shapesByKind, wire } from './parts';

export const readOf = { route: Joi.array().items(key).max(6).required(), field: key.required() };
export const field = shape<FieldRead>({ kind: Joi.valid('field').required(), ...readOf });

export const COMPARES = oneOf<CompareOperator>({
  '=': true,
  '!=': true,
  '<': true,
  '<=': true,
  '>': true,
  '>=': true,
});

/** Among rules that react into one field; see `precedenceOf`. */
export const precedence = Joi.number().integer().min(1).max(LAST_PRECEDENCE);

// Not the name of a key: a schema's ids and the keys beside it must differ.
const EXPRESSION = 'anyExpression';

const part = Joi.link(`#${EXPRESSION}`);

/** What is worked out is written as FEEL text; only conditions come as trees. */
type WrittenExpression = Exclude<
  Expression,
  { readonly kind: 'constant' | 'arithmetic' | 'negate' | 'if' | 'call' | 'gather' }
>;

type WrittenConstant = Omit<Extract<Expression, { readonly kind: 'constant' }>, 'type'>;

export const expression = Joi.alternatives()
  .conditional(
    '.kind',
    shapesByKind<WrittenExpression | WrittenConstant>({
      constant: { value: wire.required() },
      field: readOf,
      compare: { operator: COMPARES.required(), left: part.required(), right: part.required() },
      presence: {
        operator: oneOf<PresenceOperator>({ isEmpty: true, isNotEmpty: true }).required(),
        operand: part.required(),
      },
      among: {
        operator: oneOf<AmongOperator>({ isAmong: true, isNotAmong: true }).required(),
        operand: part.required(),
        options: Joi.array().items(wire).max(200).required(),
      },
      match: {
        operator: oneOf<MatchOperator>({ contains: true, startsWith: true }).required(),
        operand: part.required(),
        part: part.required(),
      },
      group: {
        operator: oneOf<GroupOperator>({ all: true, any: true, none: true }).required(),
        of: Joi.array().items(part).max(200).required(),
      },
      day: {
        from: Joi.valid(...DAY_BASES).required(),
        plus: Joi.number().integer().min(-MOST_AWAY).max(MOST_AWAY).required(),
        unit: Joi.valid(...DAY_UNITS).required(),
        financialYear: shape<DayOfYear>({
          month: Joi.number().integer().min(1).max(12).required(),
          day: Joi.number().integer().min(1).max(28).required(),
        }),
      },
      ofRun: { what: oneOf<OfRun>({ person: true, moment: true, me: true }).required() },
      feel: { text: Joi.string().max(MOST_TEXT).required() },
      selection: {
        operator: oneOf<SelectionOperator>({ isIn: true, isNotIn: true }).required(),
        route: Joi.array().items(key).max(6).required(),
        selection: key.required(),
      },
    }),
  )
  .id(EXPRESSION);

/** An expression or nothing, left out or not: one schema for all places, since those that have an id must be the same. */
export const written = expression.allow(null);
