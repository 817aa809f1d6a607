import { refreshPeriods, sectionWidths, type OnPage } from './section-kinds';
import Joi from 'joi';
import { figureMeasures } from './figure-measures';
import { condition } from './condition-schema';
import { id, label, tableName } from './name-schema';
import type { SectionSpecs } from './section';

/** A path of columns in its text form. */
export const pathText = Joi.string().max(300);

/** The order of records that a section has from the start. */
export const sortSchema = Joi.array()
  .items(Joi.object({ column: pathText.required(), descending: Joi.boolean().strict().required() }))
  .max(5);

/** How one record is shown. */
const paths = (most: number) => Joi.array().items(pathText).unique().max(most).required();

export const audience = Joi.object({
  roles: Joi.alternatives().try(Joi.valid('everyone'), Joi.array().items(id).unique()).required(),
  where: condition,
});

const linkedFigures = Joi.array()
  .items(Joi.object({ measure: Joi.valid(...figureMeasures).required(), column: pathText.required() }))
  .min(1)
  .max(4);

export const sheetSchema = Joi.object({
  columns: paths(300),
  across: Joi.valid(2),
  groups: Joi.array()
    .items(
      Joi.object({
        id: id.required(),
        title: label.min(1).max(60).required(),
        columns: paths(100),
        across: Joi.valid(2),
        audience,
      }),
    )
    .unique('id')
    .min(1)
    .max(20),
  comments: Joi.valid(false),
  history: Joi.valid(false),
  doubts: Joi.valid(true),
  files: Joi.valid(false),
  linked: Joi.array()
    .items(
      Joi.object({
        table: tableName.required(),
        column: pathText.required(),
        columns: paths(20),
        as: Joi.valid('cards'),
        figures: linkedFigures,
        audience,
      }),
    )
    .max(20),
});

const onPage: { [K in keyof OnPage]-?: Joi.Schema } = {
  id: id.required(),
  title: label.min(1),
  audience,
  width: Joi.valid(...sectionWidths),
  refresh: Joi.valid(...refreshPeriods),
};

/** A section of any of the kinds, held against the schema of its own. */
export function sectionSchema(specs: SectionSpecs): Joi.Schema {
  const kinds = Object.entries<{ schema: Record<string, Joi.Schema> }>(specs);
  return Joi.alternatives().conditional('.kind', {
    switch: kinds.map(([kind, { schema }]) => ({
      is: kind,
      then: Joi.object({ ...onPage, ...schema, kind: Joi.valid(kind).required() }),
    })),
    otherwise: Joi.object({ kind: Joi.valid(...kinds.map(([kind]) => kind)).required() }).unknown(),
  });
}
