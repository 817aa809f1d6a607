import Joi from 'joi';

/** The form of an object that is answered: every key of its type, and there unless its schema is optional. */
export function form<T extends object>(keys: { [K in keyof T]-?: Joi.Schema }): Joi.ObjectSchema<T> {
  const required = Object.entries<Joi.Schema>(keys).map(([key, schema]) => [
    key,
    (schema as Joi.AnySchema)._flags?.presence === undefined ? schema.required() : schema,
  ]);
  return Joi.object<T>(Object.fromEntries(required));
}

/** A list of what one schema says. */
export const listOf = <T>(each: Joi.Schema<T>): Joi.ArraySchema<T[]> => Joi.array<T[]>().items(each);

/** An object with entries of one kind, by names that aren't known here. */
export const byName = <T>(each: Joi.Schema<T>): Joi.ObjectSchema<Record<string, T>> =>
  Joi.object<Record<string, T>>().pattern(Joi.string(), each);

/** Any text, the empty one too. */
export const said = Joi.string().allow('');

/** A text, or null where there is none. */
export const saidOrNull = Joi.string().allow('', null);

export const yesNo = Joi.boolean();

export const whole = Joi.number().integer();

/** A whole number, or null where it isn't known. */
export const wholeOrNull = whole.allow(null);

/** A point in time (RFC 3339), as text. */
export const moment = Joi.string().isoDate();

/** What a column holds: any value of JSON. */
export const cell = Joi.any();
