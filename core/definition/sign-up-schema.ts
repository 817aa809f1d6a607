import Joi from 'joi';
import { operand } from './condition-schema';
import { id, label, name } from './name-schema';

/** As in an address behind the @: letters of any script, digits and hyphens, two labels at least. */
export const domain = Joi.string()
  .max(253)
  .pattern(
    /^(?:[\p{L}\p{N}](?:[\p{L}\p{N}-]{0,61}[\p{L}\p{N}])?\.)+[\p{L}\p{N}-]{2,63}$/u,
    'a domain, like example.org',
  );

/** A sign-up, held against the form of one. */
export const signUp = Joi.object({
  id: id.required(),
  name: label.min(1).required(),
  roster: name.required(),
  asks: Joi.array().items(name).unique().max(100).required(),
  fills: Joi.array()
    .items(Joi.object({ column: name.required(), value: operand.required() }))
    .unique('column')
    .max(50)
    .required(),
  ends: Joi.string().pattern(/^\d{4}-\d{2}-\d{2}$/, 'a day, like 2026-11-24'),
  uses: Joi.number().integer().min(1).max(100_000),
  domains: Joi.array().items(domain).unique().min(1).max(100),
  approver: id,
});
