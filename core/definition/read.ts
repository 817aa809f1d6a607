import Joi from 'joi';
import { dataClasses, definitionFormat, definitionVersion, type PortalDefinition } from './definition';

const name = Joi.string().max(64);
const label = Joi.string().trim().max(120);
const id = Joi.string().pattern(/^[a-z][a-z0-9_-]{0,39}$/, 'lower-case letters, digits, - and _');
const path = Joi.string().max(300);

const operand = Joi.object({ kind: Joi.string().required() })
  .when(Joi.object({ kind: 'column' }).unknown(), { then: Joi.object({ path: Joi.array().items(name).min(1).max(8).required() }) })
  .when(Joi.object({ kind: 'text' }).unknown(), { then: Joi.object({ text: Joi.string().allow('').max(2000).required() }) })
  .when(Joi.object({ kind: 'number' }).unknown(), { then: Joi.object({ digits: Joi.string().pattern(/^-?\d{1,30}(\.\d{1,30})?$/).required() }) })
  .when(Joi.object({ kind: 'boolean' }).unknown(), { then: Joi.object({ value: Joi.boolean().strict().required() }) })
  .when(Joi.object({ kind: 'member' }).unknown(), { then: Joi.object({ fact: Joi.array().items(name).min(1).max(2).required() }) })
  .when(Joi.object({ kind: 'clock' }).unknown(), { then: Joi.object({ what: Joi.valid('today', 'now').required() }) });

const self = Joi.link('#condition');
/** The tree of a condition; whether its columns exist is the check's business, not the schema's. */
const condition = Joi.alternatives()
  .try(
    Joi.object({ kind: Joi.valid('compare').required(), left: operand.required(), comparison: Joi.valid('=', '<>', '<', '<=', '>', '>=').required(), right: operand.required() }),
    Joi.object({ kind: Joi.valid('in').required(), left: operand.required(), list: Joi.array().items(operand).min(1).max(500).required() }),
    Joi.object({ kind: Joi.valid('between').required(), left: operand.required(), low: operand.required(), high: operand.required() }),
    Joi.object({ kind: Joi.valid('like').required(), left: operand.required(), pattern: operand.required() }),
    Joi.object({ kind: Joi.valid('null').required(), left: operand.required() }),
    Joi.object({ kind: Joi.valid('all', 'any').required(), parts: Joi.array().items(self).min(2).max(200).required() }),
    Joi.object({ kind: Joi.valid('not').required(), part: self.required() }),
  )
  .id('condition');
export const conditionSchema = condition;

const rowFilter = Joi.alternatives().try(Joi.valid('every row'), condition);
const columns = Joi.array().items(name).unique().max(1000);

const grant = Joi.object({
  see: Joi.object({ where: rowFilter.required(), columns: columns.required() }),
  edit: Joi.object({
    where: Joi.alternatives().try(Joi.valid('every row', 'as seen'), condition).required(),
    columns: columns.required(),
    keepIn: condition,
  }),
});

const mask = Joi.object({ style: Joi.valid('all', 'keep last', 'year').required() }).when(Joi.object({ style: 'keep last' }).unknown(), {
  then: Joi.object({ count: Joi.number().integer().min(1).max(20).required() }),
});

const listSection = Joi.object({
  kind: Joi.valid('list').required(),
  table: name.required(),
  columns: Joi.array().items(path).unique().max(100).required(),
  sort: Joi.array().items(Joi.object({ column: path.required(), descending: Joi.boolean().strict().required() })).max(5).required(),
  where: rowFilter.required(),
  record: Joi.array().items(path).unique().max(300).required(),
});

const definitionSchema = Joi.object({
  format: Joi.valid(definitionFormat).required(),
  formatVersion: Joi.valid(definitionVersion).required(),
  portal: Joi.object({
    slug: Joi.string().pattern(/^[a-z0-9](?:[a-z0-9-]{0,38}[a-z0-9])?$/, 'lower-case letters, digits and -').required(),
    name: label.min(1).required(),
    timeZone: Joi.string().max(60).required().custom((zone: string, helpers) => (isTimeZone(zone) ? zone : helpers.error('any.invalid'))),
    colour: Joi.string().pattern(/^#[0-9a-f]{6}$/i, 'a colour like #1f5f85').required(),
  }).required(),
  source: Joi.object({ kind: Joi.valid('mariadb').required(), schema: name.required() }).required(),
  tables: Joi.object().pattern(name, Joi.object({
    label,
    columns: Joi.object().pattern(name, Joi.object({ label, dataClass: Joi.valid(...dataClasses) })),
  })).required(),
  roles: Joi.array().items(Joi.object({ id: id.required(), name: label.min(1).required() })).unique('id').unique('name').max(100).required(),
  rosters: Joi.array().items(Joi.object({ table: name.required(), name: name.required(), email: name.required(), role: id.required() })).unique('table').max(50).required(),
  access: Joi.object().pattern(name, Joi.object().pattern(id, grant)).required(),
  masks: Joi.array().items(Joi.object({
    id: id.required(),
    table: name.required(),
    column: name.required(),
    mask: mask.required(),
    to: Joi.alternatives().try(Joi.valid('everyone'), Joi.array().items(id).min(1)).required(),
    exceptRoles: Joi.array().items(id).unique().required(),
  })).unique('id').max(1000).required(),
  pages: Joi.array().items(Joi.object({
    id: id.required(),
    title: label.min(1).required(),
    intro: Joi.string().allow('').max(1000).required(),
    roles: Joi.array().items(id).unique().required(),
    sections: Joi.array().items(listSection).max(20).required(),
  })).unique('id').max(200).required(),
});

function isTimeZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    return true;
  } catch {
    return false;
  }
}

/** A definition that can't be taken: each fault with its place in the document, as a JSON Pointer (RFC 6901). */
export class DefinitionError extends Error {
  constructor(readonly faults: { place: string; reason: string }[]) {
    super(faults.map((fault) => `${fault.place || 'the document'}: ${fault.reason}`).join('; '));
  }
}

/** Reads a definition from parsed JSON; throws DefinitionError with every fault. Never returns a part of one. */
export function readDefinition(input: unknown): PortalDefinition {
  const document = input as Partial<PortalDefinition> | null;
  if (typeof document !== 'object' || document === null || document.format !== definitionFormat) {
    throw new DefinitionError([{ place: '/format', reason: `this is not a portal's definition; its format must be "${definitionFormat}"` }]);
  }
  if (typeof document.formatVersion === 'number' && document.formatVersion > definitionVersion) {
    throw new DefinitionError([{ place: '/formatVersion', reason: `this definition was written by a newer Stone Porch (format ${String(document.formatVersion)}); this one reads up to ${definitionVersion}. Update first.` }]);
  }
  const { error, value } = definitionSchema.validate(input, { abortEarly: false, convert: false, errors: { wrap: { label: false } } });
  if (error) {
    throw new DefinitionError(error.details.map((detail) => ({
      place: detail.path.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join(''),
      reason: detail.message,
    })));
  }
  return value as PortalDefinition;
}

/** The document as text: two spaces, one line feed at the end, so that versions compare well. */
export function writeDefinition(definition: PortalDefinition): string {
  return `${JSON.stringify(definition, null, 2)}\n`;
}
