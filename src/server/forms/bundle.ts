import type { SavedListDefinition } from '@/core/model';
import type { RuleState } from '@/core/rules';
import type { FamilyData } from '@/core/verify';
import {
  type Bundle,
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  type BundleProof,
  type BundleRecord,
  type BundleRequest,
  type BundleRule,
} from '@/core/intake';
import Joi from 'joi';
import { modelType, optionList, selection } from './model';
import { day, id, kept, key, note, oneOf, shape, shapesByKind, tags, values, version } from './parts';
import { expectations, runs, settings } from './proofs';
import { MOST_POINTS, MOST_REQUESTED } from './requests';
import { definition, pilot } from './rules';
import { expression } from './expression';

export const savedList = Joi.alternatives().conditional(
  '.kind',
  shapesByKind<SavedListDefinition>({
    list: {
      type: key.required(),
      columns: Joi.array().items(key).max(300).unique().required(),
      sort: key.allow(null).required(),
      condition: expression.allow(null).required(),
    },
    joined: { selections: Joi.array().items(key).min(1).max(20).unique().required() },
  }),
);

/** A family with all its records. */
export const familyData = shape<FamilyData>({
  root: Joi.object({ type: key.required(), id: id.required() }).required(),
  members: Joi.array().items(id).min(1).required(),
  records: Joi.array()
    .items(
      Joi.object({
        ...{
          type: key.required(),
          id: Joi.string().guid().lowercase().required(),
          version: version.required(),
        },
        ...{ deleted: Joi.boolean().required(), values: values.required(), errors: values.required() },
      }),
    )
    .required(),
  complete: Joi.array()
    .items(Joi.object({ type: key.required(), link: key.required(), parent: id.required() }))
    .required(),
  names: Joi.object().pattern(Joi.string(), Joi.string().allow('')).required(),
  made: Joi.array().items(
    Joi.object({
      ...{ rule: id.required(), type: key.required(), source: id.required(), made: id.required() },
      isTakenBack: Joi.boolean().required(),
    }),
  ),
  whole: Joi.array().items(key),
  ratesSince: day,
});

/** A name whatever its letters' case; `null` where there is none: that is told by itself. */
function nameIn(one: unknown): string | null {
  const name = (one as Partial<BundleRequest> | null | undefined)?.name as unknown;
  return typeof name === 'string' ? name.toLowerCase() : null;
}

/** A bundle's form (`oikon.bundle`); published as JSON Schema, see `bundleSchema`. */
export const bundleShape = shape<Bundle>({
  format: Joi.valid(BUNDLE_FORMAT).required(),
  version: Joi.number().integer().min(1).max(BUNDLE_VERSION).required(),
  workspace: shape<Bundle['workspace']>({
    name: kept.required(),
    timeZone: Joi.string().max(60).required(),
    settledDay: day.required(),
  }).required(),
  people: Joi.array()
    .items(
      shape<Bundle['people'][number]>({
        id: Joi.string().guid().lowercase().required(),
        name: kept.max(200).required(),
        email: Joi.string().max(200).required(),
        role: kept.max(200).allow('').required(),
      }),
    )
    .unique('id')
    .required(),
  optionLists: Joi.array().items(optionList).required(),
  types: Joi.array().items(modelType).required(),
  selections: Joi.array().items(selection).required(),
  lists: Joi.array()
    .items(Joi.object({ name: kept.max(80).required(), definition: savedList.required() }))
    .unique('name', { ignoreUndefined: true })
    .required(),
  rules: Joi.array()
    .items(
      shape<BundleRule>({
        id: Joi.string().guid().lowercase().required(),
        name: kept.max(200).required(),
        isNamed: Joi.valid(false),
        note: note.required(),
        tags,
        state: oneOf<RuleState>({ draft: true, live: true, paused: true, retired: true }).required(),
        definition: definition.required(),
        live: definition,
        tried: definition.when('pilot', { is: Joi.exist(), otherwise: Joi.forbidden() }),
        pilot: pilot.when('state', { is: 'live', otherwise: Joi.forbidden() }),
      }),
    )
    .unique('id')
    .required(),
  families: Joi.array()
    .items(Joi.object({ name: kept.max(80).required(), note: note.required(), data: familyData.required() }))
    .unique('name')
    .required(),
  proofs: Joi.array()
    .items(
      shape<BundleProof>({
        ...{
          id: Joi.string().guid().lowercase().required(),
          rule: Joi.string().guid().lowercase().required(),
        },
        ...{ name: kept.max(80).required(), family: familyData.required(), day: day.required() },
        ...{ people: Joi.array().items(id).required(), runs: runs.required(), settings },
        expectations: expectations.required(),
      }),
    )
    .unique('id')
    .default([]),
  requests: Joi.array()
    .items(
      shape<BundleRequest>({
        ...{
          name: kept.max(80).required(),
          askedBy: kept.max(200).allow('').required(),
          words: note.required(),
        },
        due: day.allow(null).required(),
        points: Joi.array()
          .items(
            Joi.object({
              text: kept.max(500).required(),
              proofs: Joi.array()
                .items(Joi.object({ rule: id.required(), name: kept.max(80).required() }))
                .required(),
            }),
          )
          .max(MOST_POINTS)
          .required(),
        rules: Joi.array().items(Joi.string().guid().lowercase()).max(MOST_REQUESTED).unique().required(),
      }),
    )
    .unique((a: unknown, b: unknown) => nameIn(a) !== null && nameIn(a) === nameIn(b))
    .default([]),
  records: Joi.array().items(
    shape<BundleRecord>({
      type: key.required(),
      id: Joi.string().guid().lowercase().required(),
      values: values.required(),
      madeFor: Joi.array().items(
        Joi.object({
          rule: Joi.string().guid().lowercase().required(),
          source: Joi.string().guid().lowercase().required(),
        }),
      ),
    }),
  ),
});
