import Joi from 'joi';

export const name = Joi.string().max(64);
export const label = Joi.string().trim().max(120);

/** A table's name, with the short name of its source before it where that is not the portal's own. */
export const tableName = Joi.string().max(105);
/** By the portal's clock, as `06:30`. */
export const timeOfDay = Joi.string().pattern(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time of day, like 06:30');
export const id = Joi.string().pattern(/^[a-z][a-z0-9_-]{0,39}$/, 'lower-case letters, digits, - and _');
