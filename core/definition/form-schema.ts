import Joi from 'joi';
import { condition, operand } from './condition-schema';
import { id, label, name, tableName } from './name-schema';

const formValue = Joi.alternatives().conditional('.kind', {
  switch: [
    { is: 'record', then: Joi.forbidden() },
    { is: 'this', then: Joi.object({ kind: Joi.valid('this').required() }) },
  ],
  otherwise: operand,
});

const part = Joi.alternatives().conditional('.kind', {
  switch: [
    {
      is: 'words',
      then: Joi.object({
        kind: Joi.valid('words').required(),
        text: Joi.string().min(1).max(5000).required(),
        when: condition,
        ofRecord: condition,
      }),
    },
    {
      is: 'fact',
      then: Joi.object({
        kind: Joi.valid('fact').required(),
        of: Joi.valid('record', 'member').required(),
        path: Joi.array().items(name).min(1).max(8).required(),
        label: label.min(1),
        when: condition,
        ofRecord: condition,
      }),
    },
    {
      is: 'lines',
      then: Joi.object({
        kind: Joi.valid('lines').required(),
        id: id.required(),
        table: tableName.required(),
        by: name.required(),
        label: label.min(1).max(80),
        inputs: Joi.array()
          .items(Joi.object({ column: name.required(), label: label.min(1), required: Joi.valid(true) }))
          .unique('column')
          .min(1)
          .max(12)
          .required(),
        least: Joi.number().integer().min(1).max(100),
        most: Joi.number().integer().min(1).max(100),
        when: condition,
        ofRecord: condition,
      }),
    },
  ],
  otherwise: Joi.object({
    kind: Joi.valid('input').required(),
    column: name.required(),
    label: label.min(1),
    hint: label.min(1).max(300),
    required: Joi.valid(true),
    when: condition,
    ofRecord: condition,
    first: formValue.when('signed', { is: true, then: Joi.forbidden() }),
    signed: Joi.valid(true),
  }),
});

/** A column is asked for once in a form. */
const steps = Joi.array()
  .items(
    Joi.object({
      id: id.required(),
      title: label.min(1).max(80).required(),
      when: condition,
      ofRecord: condition,
      across: Joi.valid(2, 3),
      parts: Joi.array().items(part).max(60).required(),
    }),
  )
  .unique('id')
  .min(1)
  .max(20)
  .required();

export const form = Joi.object({
  id: id.required(),
  title: label.min(1).max(80).required(),
  table: tableName.required(),
  from: tableName,
  changes: Joi.valid(true),
  steps,
  rules: Joi.array()
    .items(
      Joi.object({
        id: id.required(),
        does: Joi.valid('required', 'refused').required(),
        columns: Joi.array().items(name.required()).unique().min(1).max(50).required(),
        when: condition.when('does', { is: 'refused', then: Joi.required() }),
        message: Joi.string().trim().min(1).max(300).when('does', { is: 'refused', then: Joi.required() }),
      }),
    )
    .unique('id')
    .min(1)
    .max(50),
  fills: Joi.object().pattern(name, formValue.required()).min(1).max(50),
  send: label.min(1).max(40),
  says: Joi.string().trim().min(1).max(5000),
  then: Joi.object({ page: id.required() }),
  corrects: Joi.valid(true),
  closes: Joi.string().pattern(/^\d{4}-\d{2}-\d{2}$/, 'a day, like 2026-12-31'),
  most: Joi.number().integer().min(1).max(10_000_000),
  oneEach: Joi.valid(true),
  anonymous: Joi.valid(true),
});
