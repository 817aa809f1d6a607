import Joi from 'joi';
import type { Ceiling } from './ceilings';
import { condition } from './condition-schema';

const closed = Joi.valid(false);

const schema = Joi.object().pattern(
  Joi.string().max(64),
  Joi.object({
    where: condition,
    create: closed,
    edit: closed,
    delete: closed,
    export: closed,
    columns: Joi.object().pattern(Joi.string().max(64), Joi.valid('nothing', 'read')),
  }),
);

/**
 * Reads the ceilings of a source by table, from parsed JSON. Throws where they can't be read: then nothing of the
 * source may be open.
 */
export function readCeilings(input: unknown): Record<string, Ceiling> {
  const { error, value } = schema.validate(input, { convert: false });
  if (error) throw new Error(`the ceilings of the source can't be read: ${error.message}`);
  return value as Record<string, Ceiling>;
}
