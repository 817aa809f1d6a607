import Joi from 'joi';
import type { Condition } from '../condition/tree';
import type { Catalogue, Closed, Table } from '../table/catalogue';
import { condition } from './condition-schema';

/** The most that any role of any portal may do with a table. What is not said is allowed. */
export interface Ceiling extends Closed {
  /** Rows outside are never seen, made or changed. */
  where?: Condition;
}

/** The rows that a table's ceiling leaves; null where it leaves all. */
export function ceilingRows(table: Table): Condition | null {
  return (table.ceiling as Ceiling | undefined)?.where ?? null;
}

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

/** The catalogue with the ceilings of its tables. */
export function withCeilings(catalogue: Catalogue, ceilings: Record<string, Ceiling>): Catalogue {
  return {
    ...catalogue,
    tables: catalogue.tables.map((table) =>
      Object.hasOwn(ceilings, table.name) ? { ...table, ceiling: ceilings[table.name]! } : table,
    ),
  };
}
