import { colourText, embeddingOrigins, faceSchema } from '../face/face-schema';
import Joi from 'joi';
import { columnKinds } from '../table/column-kind';
import { dataClasses, definitionFormat, definitionVersion, type PortalDefinition } from './definition';
import { condition } from './condition-schema';
import { name, label, tableName, id } from './name-schema';
import { mailWordsSchema } from './mail-schema';
import { mailKinds } from '../mail/mail-words';
import { signInSchema } from './sign-in-schema';
import { maskSchema } from './mask-schema';
import { grant, forRoles, fence, fieldRule, stamp, lifecycle, promise, exceptRoles } from './access-schema';
import { action } from './action-schema';
import { brought } from './brought-schema';
import { outsideAddress } from './outside-address-schema';
import { form } from './form-schema';
import type { SectionSpecs } from './section';
import { domain, signUp } from './sign-up-schema';
import { steward } from './steward-schema';
import { pageIcons } from './page-icons';
import { audience, sectionSchema, sheetSchema } from './section-schema';

const source = Joi.object({
  kind: Joi.valid('mariadb', 'postgresql').required(),
  connection: id,
  schema: name.required(),
  tables: Joi.array().items(name).unique().max(5000),
});

export const shortName = Joi.string().pattern(/^[a-z][a-z0-9_-]{0,30}$/, 'lower-case letters, digits, - and _');

const schemaWith = (specs: SectionSpecs) =>
  Joi.object<PortalDefinition>({
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
      colour: colourText.required(),
      face: faceSchema,
      embeddedIn: embeddingOrigins,
    }).required(),
    source: source.required(),
    sources: Joi.object().pattern(shortName, source).max(20),
    tables: Joi.object()
      .pattern(
        tableName,
        Joi.object({
          label,
          titleColumn: name,
          history: Joi.object({ days: Joi.number().integer().min(1).max(36_500) }),
          titleFurther: Joi.array().items(name.required()).unique().min(1).max(3),
          address: name,
          key: Joi.array().items(name.required()).unique().min(1).max(8),
          filters: Joi.object()
            .pattern(id, Joi.object({ name: label.min(1).required(), where: condition.required() }))
            .min(1)
            .max(100),
          rules: Joi.array().items(fieldRule).unique('id').min(1).max(200),
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
              labels: Joi.object()
                .pattern(Joi.string().max(200), Joi.string().trim().min(1).max(80).required())
                .min(1)
                .max(200),
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
          withoutRow: Joi.valid(true),
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
          nameFurther: Joi.array().items(name.required()).unique().min(1).max(3),
          email: name.required(),
          where: condition,
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
    signIn: signInSchema(id),
    mails: Joi.object()
      .pattern(Joi.valid(...mailKinds), Joi.object(mailWordsSchema))
      .min(1),
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
    actions: Joi.array().items(action).unique('id').max(300),
    addresses: Joi.array().items(outsideAddress).unique('id').max(50),
    brought: Joi.array().items(brought).unique('id').max(50),
    forms: Joi.array().items(form).unique('id').max(200),
    openTo: Joi.object({
      domains: Joi.array().items(domain).unique().min(1).max(100).required(),
      roles: Joi.array().items(id).unique().max(100).required(),
    }),
    signUps: Joi.array().items(signUp).unique('id').max(100),
    stewards: Joi.array().items(steward).unique('id').max(200),
    promises: Joi.array().items(promise).unique('id').max(500),
    accepted: Joi.array()
      .items(
        Joi.object({
          finding: Joi.string().max(400).required(),
          reason: Joi.string().trim().min(1).max(500).required(),
        }),
      )
      .unique('finding')
      .max(2000),
    sheets: Joi.object().pattern(tableName, sheetSchema).required(),
    pages: Joi.array()
      .items(
        Joi.object({
          id: id.required(),
          title: label.min(1).required(),
          intro: Joi.string().allow('').max(1000).required(),
          audience: audience.required(),
          unlisted: Joi.valid(true),
          icon: Joi.valid(...pageIcons),
          sections: Joi.array().items(sectionSchema(specs)).max(20).unique('id').required(),
        }),
      )
      .unique('id')
      .max(200)
      .required(),
  });

/** The form of a definition, and that of some parts of one, of which none has to be there. */
interface DefinitionSchemas {
  whole: Joi.ObjectSchema<PortalDefinition>;
  parts: Joi.ObjectSchema<Partial<PortalDefinition>>;
  /** The parts that every definition has. */
  required: readonly string[];
}

const made = new WeakMap<SectionSpecs, DefinitionSchemas>();

/** The form of a definition whose sections are of these kinds; made once for the same kinds. */
export function definitionSchemas(specs: SectionSpecs): DefinitionSchemas {
  let schemas = made.get(specs);
  if (!schemas) {
    const whole = schemaWith(specs);
    const { error } = whole.validate({}, { abortEarly: false });
    const required = error!.details.map(({ path }) => String(path[0]));
    schemas = { whole, parts: whole.fork(required, (part) => part.optional()), required };
    made.set(specs, schemas);
  }
  return schemas;
}

/** Asking what the platform knows takes a millisecond, and a portal's zone is asked with every change. */
const knownZones = new Set<string>();

function isTimeZone(zone: string): boolean {
  if (knownZones.has(zone)) return true;
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    knownZones.add(zone);
    return true;
  } catch {
    return false;
  }
}
