import { Problem } from '../refusals/problem';
import Joi from 'joi';
import { sayFault } from '../refusals/say-fault';
import { columnKinds } from '../table/column-kind';
import { dataClasses, definitionFormat, definitionVersion, type PortalDefinition } from './definition';
import { condition } from './condition-schema';
import { name, label, tableName, id } from './name-schema';
import { maskSchema } from './mask-schema';
import { rowFilter, grant, forRoles, fence, stamp, lifecycle, promise, exceptRoles } from './access-schema';
import { tooMuchNested, tooLongCondition } from './limits';

const pathText = Joi.string().max(300);

const listSection = Joi.object({
  kind: Joi.valid('list').required(),
  table: tableName.required(),
  columns: Joi.array().items(pathText).unique().max(100).required(),
  sort: Joi.array()
    .items(Joi.object({ column: pathText.required(), descending: Joi.boolean().strict().required() }))
    .max(5)
    .required(),
  where: rowFilter.required(),
  record: Joi.array().items(pathText).unique().max(300).required(),
});

const source = Joi.object({
  kind: Joi.valid('mariadb', 'postgresql').required(),
  connection: id,
  schema: name.required(),
  tables: Joi.array().items(name).unique().max(5000),
});

export const shortName = Joi.string().pattern(/^[a-z][a-z0-9_-]{0,30}$/, 'lower-case letters, digits, - and _');

/** The form of a definition; `readDefinition` reads one by it. */
export const definitionSchema = Joi.object<PortalDefinition>({
  format: Joi.valid(definitionFormat).required(),
  formatVersion: Joi.valid(definitionVersion).required(),
  portal: Joi.object({
    slug: Joi.string()
      .pattern(/^[a-z0-9](?:[a-z0-9-]{0,38}[a-z0-9])?$/, 'lower-case letters, digits and -')
      .required(),
    name: label.min(1).required(),
    timeZone: Joi.string()
      .max(60)
      .required()
      .custom((zone: string, helpers) => (isTimeZone(zone) ? zone : helpers.error('any.invalid'))),
    colour: Joi.string()
      .pattern(/^#[0-9a-f]{6}$/i, 'a colour like #1f5f85')
      .required(),
  }).required(),
  source: source.required(),
  sources: Joi.object().pattern(shortName, source).max(20),
  tables: Joi.object()
    .pattern(
      tableName,
      Joi.object({
        label,
        titleColumn: name,
        address: name,
        key: Joi.array().items(name.required()).unique().min(1).max(8),
        relations: Joi.array()
          .items(
            Joi.object({
              name: name.required(),
              column: name.required(),
              table: tableName.required(),
              targetColumn: name.required(),
            }),
          )
          .unique('name')
          .unique('column')
          .max(100),
        columns: Joi.object().pattern(
          name,
          Joi.object({
            label,
            dataClass: Joi.valid(...dataClasses),
            apart: Joi.string().trim().min(3).max(500),
            kind: Joi.valid(...columnKinds),
            currency: Joi.string().pattern(/^[A-Z]{3}$/, 'a currency of ISO 4217'),
            colours: Joi.object().pattern(Joi.string().max(200), Joi.number().integer().min(0).max(7)),
          }),
        ),
      }),
    )
    .required(),
  roles: Joi.array()
    .items(
      Joi.object({
        id: id.required(),
        name: label.min(1).required(),
        for: Joi.valid('members', 'visitors', 'services'),
      }),
    )
    .unique('id')
    .unique('name')
    .max(100)
    .required(),
  rosters: Joi.array()
    .items(
      Joi.object({
        table: name.required(),
        name: name.required(),
        email: name.required(),
        role: id,
        roles: Joi.array()
          .items(Joi.object({ role: id.required(), where: condition.required() }))
          .max(50),
        organisation: name,
      }).or('role', 'roles'),
    )
    .unique('table')
    .max(50)
    .required(),
  access: Joi.object().pattern(tableName, Joi.object().pattern(id, grant)).required(),
  masks: Joi.array()
    .items(
      Joi.object({
        id: id.required(),
        table: tableName,
        column: name,
        dataClass: Joi.valid(...dataClasses),
        mask: maskSchema.required(),
        to: forRoles,
        exceptRoles,
        exceptMembers: Joi.array().items(Joi.string().max(254)).unique().max(1000),
      })
        .xor('dataClass', 'column')
        .and('table', 'column'),
    )
    .unique('id')
    .max(1000)
    .required(),
  fences: Joi.array().items(fence).unique('id').max(500),
  stamps: Joi.array().items(stamp).unique('id').max(500),
  lifecycles: Joi.array().items(lifecycle).unique('table').max(200),
  promises: Joi.array().items(promise).unique('id').max(500),
  accepted: Joi.array()
    .items(
      Joi.object({ finding: Joi.string().max(400).required(), reason: Joi.string().trim().min(1).max(500).required() }),
    )
    .unique('finding')
    .max(2000),
  pages: Joi.array()
    .items(
      Joi.object({
        id: id.required(),
        title: label.min(1).required(),
        intro: Joi.string().allow('').max(1000).required(),
        roles: Joi.array().items(id).unique().required(),
        sections: Joi.array().items(listSection).max(20).required(),
      }),
    )
    .unique('id')
    .max(200)
    .required(),
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
export class DefinitionError extends Problem {
  constructor(readonly faults: { place: string; reason: string }[]) {
    super(422, 'definition', faults.map((fault) => `${fault.place || 'the document'}: ${fault.reason}`).join('; '), {
      faults,
    });
  }

  /** The faults stand beside it, each with its place. */
  override get detail(): string {
    return "The definition can't be taken.";
  }
}

/** Reads a definition from parsed JSON; throws DefinitionError with every fault. Never returns a part of one. */
export function readDefinition(input: unknown): PortalDefinition {
  const document = input as Partial<PortalDefinition> | null;
  if (typeof document !== 'object' || document === null || document.format !== definitionFormat) {
    throw new DefinitionError([
      { place: '/format', reason: `this is not a portal's definition; its format must be "${definitionFormat}"` },
    ]);
  }
  if (typeof document.formatVersion === 'number' && document.formatVersion > definitionVersion) {
    throw new DefinitionError([
      {
        place: '/formatVersion',
        reason:
          `this definition was written by a newer Stone Porch (format ${String(document.formatVersion)}); this ` +
          `one reads up to ${definitionVersion}. Update first.`,
      },
    ]);
  }
  const tooMuch = tooMuchNested(input) ?? tooLongCondition(input);
  if (tooMuch) throw new DefinitionError([tooMuch]);
  const { error, value } = definitionSchema.validate(input, {
    abortEarly: false,
    convert: false,
    errors: { wrap: { label: false } },
  });
  if (error) {
    throw new DefinitionError(
      error.details.map((detail) => ({
        place: detail.path.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join(''),
        reason: sayFault(detail),
      })),
    );
  }
  return value as PortalDefinition;
}

/** The document as text: two spaces, one line feed at the end, so that versions compare well. */
export function writeDefinition(definition: PortalDefinition): string {
  return `${JSON.stringify(definition, null, 2)}\n`;
}
