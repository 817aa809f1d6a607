import Joi from 'joi';
import { condition } from './condition-schema';
import { id, name, tableName } from './name-schema';
import { stewardActs } from './steward';

const columns = Joi.array().items(name).unique().max(300);
const who = { id: id.required(), role: id.required() };
const slice = { roster: name.required(), where: condition };

const looksAfter = Joi.object({
  ...who,
  ...slice,
  does: Joi.valid('look after people').required(),
  roles: Joi.array().items(id).unique().min(1).max(100).required(),
  sees: columns.required(),
  adds: columns.min(1),
  changes: columns.min(1),
  may: Joi.array()
    .items(Joi.valid(...stewardActs))
    .unique()
    .required(),
});

const keepsTable = Joi.object({ ...who, does: Joi.valid('keep a table').required(), table: tableName.required() });

const handsOver = Joi.object({
  ...who,
  ...slice,
  does: Joi.valid('hand over').required(),
  tables: Joi.array()
    .items(Joi.object({ table: tableName.required(), column: name.required(), where: condition }))
    .unique('table')
    .min(1)
    .max(50)
    .required(),
});

/** A steward, held against the form of what it does. */
export const steward = Joi.alternatives().conditional('.does', {
  switch: [
    { is: 'look after people', then: looksAfter },
    { is: 'keep a table', then: keepsTable },
    { is: 'hand over', then: handsOver },
  ],
  otherwise: Joi.object({
    does: Joi.valid('look after people', 'keep a table', 'hand over').required(),
  }).unknown(),
});
