import Joi from 'joi';
import { day, id, kept, name, note, version } from './parts';

export const MOST_POINTS = 50;
export const MOST_REQUESTED = 50;

const askedBy = kept.trim().max(200).allow('');

const content = {
  ...{ askedBy, words: note, due: day.allow(null) },
  points: Joi.array()
    .items(
      Joi.object({
        text: kept.trim().min(1).max(500).required(),
        proofs: Joi.array().items(id).max(200).unique().required(),
      }),
    )
    .max(MOST_POINTS),
  rules: Joi.array().items(id).max(MOST_REQUESTED).unique(),
};

export const newRequest = Joi.object({ name: name.required(), ...content });
export const requestPatch = Joi.object({ version: version.required(), name, ...content });
export const agreement = Joi.object({ name: askedBy.required(), note, version: version.required() });
