import Joi from 'joi';

/** An e-mail address that somebody typed. */
export const emailAddress = Joi.string()
  .max(254)
  .pattern(/^[^\s<>@]+@[^\s<>@]+$/, 'an e-mail address');
