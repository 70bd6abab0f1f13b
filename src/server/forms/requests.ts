import type { RequestPoint } from '@/core/verify';
import type { Agreement, RequestInput, RequestPatch } from './types';
import Joi from 'joi';
import { day, type Forms, id, kept, name, note, shape, version } from './parts';

export const MOST_POINTS = 50;
export const MOST_REQUESTED = 50;

const askedBy = kept.trim().max(200).allow('');

const content: Omit<Forms<RequestInput>, 'name'> = {
  ...{ askedBy, words: note, due: day.allow(null) },
  points: Joi.array()
    .items(
      shape<RequestPoint>({
        text: kept.trim().min(1).max(500).required(),
        proofs: Joi.array().items(id).max(200).unique().required(),
      }),
    )
    .max(MOST_POINTS),
  rules: Joi.array().items(id).max(MOST_REQUESTED).unique(),
};

export const newRequest = shape<RequestInput>({ name: name.required(), ...content });
export const requestPatch = shape<RequestPatch>({ version: version.required(), name, ...content });
export const agreement = shape<Agreement>({ name: askedBy.required(), note, version: version.required() });
