import Joi from 'joi';
import type { Condition, Operand } from '../condition/tree';
import { intervalUnits } from '../sql/interval-unit';
import { id, name } from './name-schema';

const path = Joi.array().items(name).min(1).max(8);

/** Chosen by its kind, so that it is looked at once and not as each kind that there is. */
function byKind(schemas: Record<string, Joi.Schema>): Joi.AlternativesSchema {
  return Joi.alternatives().conditional('.kind', {
    switch: Object.entries(schemas).map(([is, then]) => ({ is, then })),
    // What is of no known kind is wrong in its kind.
    otherwise: Joi.object({ kind: Joi.valid(...Object.keys(schemas)).required() }).unknown(),
  });
}

function ofKind(kind: string, keys: Joi.SchemaMap): Joi.ObjectSchema {
  return Joi.object({ kind: Joi.valid(kind).required(), ...keys });
}

const plainOperands: Record<Exclude<Operand['kind'], 'shifted'>, Joi.ObjectSchema> = {
  column: ofKind('column', { path: path.required() }),
  text: ofKind('text', { text: Joi.string().allow('').max(2000).required() }),
  number: ofKind('number', {
    digits: Joi.string()
      .pattern(/^-?\d{1,30}(\.\d{1,30})?$/)
      .required(),
  }),
  boolean: ofKind('boolean', { value: Joi.boolean().strict().required() }),
  member: ofKind('member', { fact: Joi.array().items(name).min(1).max(8).required() }),
  clock: ofKind('clock', { what: Joi.valid('today', 'now').required() }),
  record: ofKind('record', { column: name.required() }),
};

const plainOperand = byKind(plainOperands);

export const operand = byKind({
  ...plainOperands,
  shifted: ofKind('shifted', {
    of: plainOperand.required(),
    count: Joi.number().integer().min(-99999).max(99999).invalid(0).required(),
    unit: Joi.valid(...intervalUnits).required(),
  }),
});

const self = Joi.link('#condition');

/** The tree of a condition; whether its columns exist is the check's business, not the schema's. */
const conditions: Record<Condition['kind'], Joi.ObjectSchema> = {
  compare: ofKind('compare', {
    left: operand.required(),
    comparison: Joi.valid('=', '<>', '<', '<=', '>', '>=').required(),
    right: operand.required(),
  }),
  in: ofKind('in', { left: operand.required(), list: Joi.array().items(operand).min(1).max(500).required() }),
  between: ofKind('between', { left: operand.required(), low: operand.required(), high: operand.required() }),
  like: ofKind('like', { left: operand.required(), pattern: operand.required() }),
  null: ofKind('null', { left: operand.required() }),
  has: ofKind('has', {
    value: plainOperand.required(),
    column: ofKind('column', { path: path.required() }).required(),
  }),
  exists: ofKind('exists', { relation: path.required(), where: self.allow(null).required() }),
  all: ofKind('all', { parts: Joi.array().items(self).min(2).max(200).required() }),
  any: ofKind('any', { parts: Joi.array().items(self).min(2).max(200).required() }),
  not: ofKind('not', { part: self.required() }),
};

export const condition = byKind(
  Object.fromEntries(Object.entries(conditions).map(([kind, schema]) => [kind, schema.keys({ named: id })])),
).id('condition');
