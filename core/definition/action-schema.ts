import Joi from 'joi';
import { rowFilter } from './access-schema';
import { condition, operand } from './condition-schema';
import { mailWordsSchema } from './mail-schema';
import { id, label, name, tableName, timeOfDay } from './name-schema';

const stepValue = Joi.alternatives().conditional('.kind', {
  switch: [
    { is: 'asked', then: Joi.object({ kind: Joi.valid('asked').required(), ask: id.required() }) },
    { is: 'this', then: Joi.object({ kind: Joi.valid('this').required() }) },
    {
      is: 'made',
      then: Joi.object({ kind: Joi.valid('made').required(), make: Joi.number().integer().min(0).max(19).required() }),
    },
    { is: 'nothing', then: Joi.object({ kind: Joi.valid('nothing').required() }) },
    { is: 'record', then: Joi.forbidden() },
  ],
  otherwise: operand,
});

/** What a value is called in what is sent, and where one is found in what is answered. */
const jsonName = Joi.string().pattern(/^[\w-]{1,60}$/, 'letters, digits, - and _');
const jsonPath = Joi.string().pattern(/^[\w-]{1,60}(\.[\w-]{1,60}){0,7}$/, 'names with dots between them');

const values = Joi.object().pattern(name, stepValue).max(100).required();

const step = Joi.alternatives().conditional('.kind', {
  switch: [
    { is: 'set', then: Joi.object({ kind: Joi.valid('set').required(), values }) },
    {
      is: 'make',
      then: Joi.object({ kind: Joi.valid('make').required(), table: tableName.required(), values, keepIn: rowFilter }),
    },
    { is: 'move', then: Joi.object({ kind: Joi.valid('move').required(), move: id.required() }) },
    {
      is: 'mail',
      then: Joi.object({
        kind: Joi.valid('mail').required(),
        mail: Joi.alternatives()
          .try(
            Joi.object({ to: Joi.valid('presser').required() }),
            Joi.object({ to: Joi.valid('column').required(), path: Joi.array().items(name).min(1).max(8).required() }),
            Joi.object({ to: Joi.valid('role').required(), role: id.required() }),
          )
          .required(),
        ...mailWordsSchema,
      }),
    },
    {
      is: 'call',
      then: Joi.object({
        kind: Joi.valid('call').required(),
        address: id.required(),
        values: Joi.object().pattern(jsonName, stepValue).max(100).required(),
        answers: Joi.object().pattern(name, jsonPath).min(1).max(30),
      }),
    },
    {
      is: 'go',
      then: Joi.object({ kind: Joi.valid('go').required(), page: id.required(), withRecord: Joi.valid(true) }),
    },
  ],
  otherwise: Joi.object({ kind: Joi.valid('set', 'make', 'move', 'go', 'mail', 'call').required() }).unknown(),
});

const brought = Joi.valid(true);

export const action = Joi.object({
  id: id.required(),
  name: label.min(1).max(60).required(),
  table: tableName.required(),
  roles: Joi.array().items(id).unique().required(),
  on: Joi.alternatives().try(
    Joi.object({ what: Joi.valid('made').required(), form: id, brought }),
    Joi.object({ what: Joi.valid('changed').required(), brought }),
    Joi.object({ what: Joi.valid('moved').required(), move: id, brought }),
    Joi.object({ what: Joi.valid('deleted').required() }),
    Joi.object({ what: Joi.valid('time').required(), at: timeOfDay.required() }),
  ),
  where: condition,
  several: Joi.valid('all or nothing', 'each by itself'),
  asks: Joi.array()
    .items(
      Joi.object({
        id: id.required(),
        table: tableName.required(),
        column: name.required(),
        label: label.min(1),
        required: Joi.valid(true),
        first: operand,
      }),
    )
    .unique('id')
    .max(20)
    .required(),
  confirm: Joi.string().trim().min(1).max(300),
  steps: Joi.array().items(step).max(20).required(),
  keepIn: rowFilter,
  says: Joi.string().trim().min(1).max(500),
});
