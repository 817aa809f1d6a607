import Joi from 'joi';
import { condition, operand } from './condition-schema';
import { label, id, name, tableName } from './name-schema';
import { commentActs } from './hung';
import { promisedOperations } from './promise';

export const rowFilter = Joi.alternatives().try(Joi.valid('every row'), condition);
const columns = Joi.array().items(name).unique().max(1000);
const filterOrAsSeen = Joi.alternatives().try(Joi.valid('every row', 'as seen'), condition).required();
const acts = Joi.array()
  .items(Joi.valid(...commentActs))
  .unique();

const hung = Joi.object({ forAll: acts, amongUs: acts, earlier: Joi.valid(true) }).or('forAll', 'amongUs');

export const grant = Joi.object({
  see: Joi.object({ where: rowFilter.required(), columns: columns.required() }),
  create: Joi.object({ columns: columns.required(), keepIn: rowFilter }),
  edit: Joi.object({ where: filterOrAsSeen, columns: columns.required(), unseen: columns, keepIn: rowFilter }),
  delete: Joi.object({ where: filterOrAsSeen }),
  export: Joi.object({ where: filterOrAsSeen }),
  comments: hung,
  files: hung,
  history: Joi.valid(true),
});

export const forRoles = Joi.alternatives().try(Joi.valid('everyone'), Joi.array().items(id).min(1)).required();
export const exceptRoles = Joi.array().items(id).unique().required();

export const fence = Joi.object({
  id: id.required(),
  table: tableName.required(),
  where: condition.required(),
  exceptRoles,
});

export const stamp = Joi.object({
  id: id.required(),
  table: tableName.required(),
  column: name.required(),
  on: Joi.valid('create', 'change', 'create and change', 'left empty').required(),
  value: operand.required(),
  to: forRoles,
});

/** What is refused is said in words: nobody could guess them. */
export const fieldRule = Joi.object({
  id: id.required(),
  does: Joi.valid('required', 'kept', 'refused').required(),
  columns: Joi.array().items(name.required()).unique().min(1).max(50).required(),
  when: condition.when('does', { is: 'refused', then: Joi.required() }),
  message: Joi.string().trim().min(1).max(300).when('does', { is: 'refused', then: Joi.required() }),
});

export const lifecycle = Joi.object({
  table: tableName.required(),
  column: name.required(),
  start: label,
  moves: Joi.array()
    .items(
      Joi.object({
        id: id.required(),
        name: label.min(1).required(),
        from: Joi.array().items(label).min(1).required(),
        to: label.required(),
        roles: Joi.array().items(id).unique().required(),
        where: condition,
        needs: columns.required(),
      }),
    )
    .unique('id')
    .max(200)
    .required(),
});

/** Empty until somebody is chosen; such a promise is about nobody and counts as broken. */
const member = Joi.object({ member: Joi.string().max(254).allow('').required() });

export const promise = Joi.alternatives().try(
  Joi.object({
    id: id.required(),
    who: Joi.alternatives()
      .try(
        Joi.object({ everyone: Joi.valid(true).required(), exceptRoles }),
        Joi.object({ role: id.required() }),
        member,
      )
      .required(),
    says: Joi.valid('may never', 'may only', 'must be able to').required(),
    operation: Joi.valid(...promisedOperations).required(),
    table: tableName.required(),
    column: name,
    step: id,
    where: condition,
  }),
  Joi.object({
    id: id.required(),
    who: member.required(),
    says: Joi.valid('sees exactly').required(),
    records: Joi.number().integer().min(0).required(),
    table: tableName.required(),
  }),
);
