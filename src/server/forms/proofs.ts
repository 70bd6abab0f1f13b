import type { Expectation, RunSetting } from '@/core/verify';
import type { MadeFor, WireEdit } from '@/core/engine';
import Joi from 'joi';
import { MOST_EDITS, MOST_EXPECTATIONS, MOST_RUNS } from '@/server/limits';
import { day, id, key, oneOf, shape, shapesByKind, values, version, wire } from './parts';

/** A record that is made in place of a rule; see `MadeFor`. */
export const madeFor = shape<MadeFor>({ rule: id.required(), source: id.required() });

/** An edit as a rehearsal or a proof has it: of whatever stands there. */
export const edit = shape<WireEdit>({
  kind: oneOf<WireEdit['kind']>({ create: true, edit: true, delete: true, restore: true }).required(),
  type: key.required(),
  id: id.when('kind', { is: 'create', otherwise: Joi.required() }),
  version,
  values: values.when('kind', {
    is: Joi.valid('delete', 'restore'),
    then: Joi.forbidden(),
    otherwise: Joi.required(),
  }),
  madeFor: madeFor.when('kind', { is: 'create', otherwise: Joi.forbidden() }),
});

/** `*`: whatever stands there may be written over (as in the header If-Match of RFC 9110). */
export const seenVersion = Joi.alternatives(version, Joi.valid('*'));

/** An edit that is saved says which version of its record was seen. */
export const savedEdit = edit.keys({
  version: seenVersion.when('kind', {
    is: Joi.valid('edit', 'delete'),
    then: Joi.required(),
  }),
});

const cell = { type: key.required(), id: id.required(), field: key.required(), value: wire.required() };
const maker = { rule: id.required(), source: id.required() };
export const expectations = Joi.array()
  .items(
    Joi.alternatives().conditional(
      '.kind',
      shapesByKind<Expectation>({
        becomes: cell,
        stays: cell,
        isMade: {
          ...{ ...maker, values: Joi.object().pattern(Joi.string().max(60), wire).required() },
          times: Joi.number().integer().min(1).max(MOST_EXPECTATIONS),
        },
        isNotMade: maker,
        isProposed: maker,
        isNotProposed: maker,
        isRefused: {
          run: Joi.number()
            .integer()
            .min(0)
            .max(MOST_RUNS - 1)
            .required(),
          code: Joi.string().max(60).required(),
        },
      }),
    ),
  )
  .min(1)
  .max(MOST_EXPECTATIONS);

/** Edits run by run. One of nothing is one of which only the day turns. */
export const runs = Joi.array().items(Joi.array().items(edit).max(MOST_EDITS)).max(MOST_RUNS);

/** From which run on it is another day, or somebody else acts. */
export const settings = Joi.array()
  .items(
    shape<RunSetting>({
      run: Joi.number()
        .integer()
        .min(0)
        .max(MOST_RUNS - 1)
        .required(),
      day,
      person: id.allow(null),
    }),
  )
  .max(2 * MOST_RUNS)
  .default([]);
