import Joi from 'joi';
import type { Condition } from '../condition/tree';
import { intervalUnits } from '../sql/interval-unit';
import { id, name } from './name-schema';

const path = Joi.array().items(name).min(1).max(8);

const plainOperand = Joi.object({ kind: Joi.string().required() })
  .when(Joi.object({ kind: 'column' }).unknown(), { then: Joi.object({ path: path.required() }) })
  .when(Joi.object({ kind: 'text' }).unknown(), {
    then: Joi.object({ text: Joi.string().allow('').max(2000).required() }),
  })
  .when(Joi.object({ kind: 'number' }).unknown(), {
    then: Joi.object({
      digits: Joi.string()
        .pattern(/^-?\d{1,30}(\.\d{1,30})?$/)
        .required(),
    }),
  })
  .when(Joi.object({ kind: 'boolean' }).unknown(), { then: Joi.object({ value: Joi.boolean().strict().required() }) })
  .when(Joi.object({ kind: 'member' }).unknown(), {
    then: Joi.object({ fact: Joi.array().items(name).min(1).max(8).required() }),
  })
  .when(Joi.object({ kind: 'clock' }).unknown(), { then: Joi.object({ what: Joi.valid('today', 'now').required() }) })
  .when(Joi.object({ kind: 'record' }).unknown(), { then: Joi.object({ column: name.required() }) });

const shiftedOperand = Joi.object({
  kind: Joi.valid('shifted').required(),
  of: plainOperand.required(),
  count: Joi.number().integer().min(-99999).max(99999).invalid(0).required(),
  unit: Joi.valid(...intervalUnits).required(),
});

export const operand = Joi.alternatives().conditional(Joi.object({ kind: 'shifted' }).unknown(), {
  then: shiftedOperand,
  otherwise: plainOperand,
});

const self = Joi.link('#condition');

/** The tree of a condition; whether its columns exist is the check's business, not the schema's. */
const conditions: Record<Condition['kind'], Joi.ObjectSchema> = {
  compare: Joi.object({
    kind: Joi.valid('compare').required(),
    left: operand.required(),
    comparison: Joi.valid('=', '<>', '<', '<=', '>', '>=').required(),
    right: operand.required(),
  }),
  in: Joi.object({
    kind: Joi.valid('in').required(),
    left: operand.required(),
    list: Joi.array().items(operand).min(1).max(500).required(),
  }),
  between: Joi.object({
    kind: Joi.valid('between').required(),
    left: operand.required(),
    low: operand.required(),
    high: operand.required(),
  }),
  like: Joi.object({ kind: Joi.valid('like').required(), left: operand.required(), pattern: operand.required() }),
  null: Joi.object({ kind: Joi.valid('null').required(), left: operand.required() }),
  has: Joi.object({
    kind: Joi.valid('has').required(),
    value: plainOperand.required(),
    column: Joi.object({ kind: Joi.valid('column').required(), path: path.required() }).required(),
  }),
  exists: Joi.object({
    kind: Joi.valid('exists').required(),
    relation: path.required(),
    where: self.allow(null).required(),
  }),
  all: Joi.object({ kind: Joi.valid('all').required(), parts: Joi.array().items(self).min(2).max(200).required() }),
  any: Joi.object({ kind: Joi.valid('any').required(), parts: Joi.array().items(self).min(2).max(200).required() }),
  not: Joi.object({ kind: Joi.valid('not').required(), part: self.required() }),
};

/** What a condition of no known kind is held against: its kind, which is then what is wrong. */
const ofSomeKind = Joi.object({ kind: Joi.valid(...Object.keys(conditions)).required() }).unknown();

// By its kind, so that a condition is looked at once and not as each of them.
export const condition = Joi.alternatives()
  .conditional('.kind', {
    switch: Object.entries(conditions).map(([kind, schema]) => ({ is: kind, then: schema.keys({ named: id }) })),
    otherwise: ofSomeKind,
  })
  .id('condition');
