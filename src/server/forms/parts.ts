import { parseValue } from '@/core/values';
import Joi from 'joi';

/** What bodies are made of. */
export const id = Joi.string().max(60);
/** The id of something that is stored. */
export const uuid = Joi.string().guid({ separator: '-' });
export const key = Joi.string().max(60);
export const version = Joi.number().integer().min(1);
export const values = Joi.object().pattern(Joi.string(), Joi.any());
/** A value as it travels; what fits which field is the core's to say. */
export const wire = Joi.alternatives(
  Joi.valid(null),
  Joi.string().allow(''),
  Joi.number(),
  Joi.boolean(),
  Joi.array().items(Joi.string()),
  Joi.object({ amount: Joi.string().required(), currency: Joi.string().required() }),
);

/** Whether PostgreSQL can hold a text: a NUL character, or half of a surrogate pair, it can't. */
export const canBeKept = (text: string): boolean => !text.includes('\u0000') && text.isWellFormed();

/** Text that is kept as it is. */
export const kept = Joi.string().custom((text: string, helpers) =>
  canBeKept(text)
    ? text
    : helpers.message({
        custom: '{{#label}} holds a character that can’t be kept (NUL, or half of a surrogate pair)',
      }),
);
export const name = kept.trim().max(200).allow('');
export const note = kept.max(20_000).allow('');
/** Words by which rules are put together; none twice, however it is written. */
export const tags = Joi.array()
  .items(kept.trim().min(1).max(40))
  .max(20)
  .unique((one: string, other: string) => one.toLowerCase() === other.toLowerCase());

export type Forms<T> = { readonly [K in keyof T]-?: Joi.Schema };

/**
 * The form of a type: each of its keys, also those that may be left out. A key that the type has and the form hasn't, or the other way
 * round, doesn't compile: types are said once, in the core, and forms add what may stand there and its bounds.
 */
export const shape = <T extends object>(forms: Forms<T>): Joi.ObjectSchema<T> => Joi.object(forms);

/** The words of a union: each of them, and no other. */
export const oneOf = <T extends string>(words: Readonly<Record<T, true>>): Joi.Schema =>
  Joi.valid(...Object.keys(words));

export const kindIs = (kind: string, more: Joi.SchemaMap) => ({
  is: kind,
  then: Joi.object({ kind: Joi.string().valid(kind).required(), ...more }),
});

/** Of which kinds something may be: one that is not among them is told, with those that are. */
export const byKind = (cases: Joi.SwitchCases[]): { switch: Joi.SwitchCases[]; otherwise: Joi.Schema } => ({
  switch: cases,
  otherwise: Joi.forbidden().messages({
    'any.unknown': `{{#label}} should have as its “kind” one of ${cases.map(({ is }) => String(is)).join(', ')}`,
  }),
});

/** The member of a union that is of a kind, also where several kinds share one. */
type OfKind<U, K> = U extends { readonly kind: infer Kinds } ? (K extends Kinds ? U : never) : never;

/** The forms of a closed union by its kinds: each of them, and no other. */
export const shapesByKind = <U extends { readonly kind: string }>(shapes: {
  readonly [K in U['kind']]: Forms<Omit<OfKind<U, K>, 'kind'>>;
}): ReturnType<typeof byKind> =>
  byKind(Object.entries<Joi.SchemaMap>(shapes).map(([kind, forms]) => kindIs(kind, forms)));

/** A day of the calendar as it travels: `2027-03-01`. */
export const day = Joi.string()
  .pattern(/^\d{4}-\d{2}-\d{2}$/)
  .custom((text: string, helpers) =>
    parseValue({ kind: 'date' }, text).ok
      ? text
      : helpers.message({ custom: '{{#label}} should be a day of the calendar such as 2027-03-01' }),
  );
