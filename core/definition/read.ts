import Big from 'big.js';
import Joi from 'joi';
import { intervalUnits } from '../condition/tree';
import { sayFault } from '../refusals/say-fault';
import type { MaskStyleName } from '../mask/mask';
import { columnKinds } from '../table/drawn';
import type { Condition } from '../condition/tree';
import {
  dataClasses,
  definitionFormat,
  definitionVersion,
  promisedOperations,
  type PortalDefinition,
} from './definition';

const name = Joi.string().max(64);
/** A table's name, with the short name of its source before it where that is not the portal's own. */
const tableName = Joi.string().max(105);
const label = Joi.string().trim().max(120);
const id = Joi.string().pattern(/^[a-z][a-z0-9_-]{0,39}$/, 'lower-case letters, digits, - and _');
const pathText = Joi.string().max(300);

const path = Joi.array().items(name).min(1).max(8);
const plainOperand = Joi.object({ kind: Joi.string().required() })
  .when(Joi.object({ kind: 'column' }).unknown(), { then: Joi.object({ path: path.required() }) })
  .when(Joi.object({ kind: 'text' }).unknown(), {
    then: Joi.object({ text: Joi.string().allow('').max(2000).required() }),
  })
  .when(Joi.object({ kind: 'number' }).unknown(), {
    then: Joi.object({
      digits: Joi.string()
        .pattern(/^-?\d{1,30}(\.\d{1,30})?$/)
        .required(),
    }),
  })
  .when(Joi.object({ kind: 'boolean' }).unknown(), { then: Joi.object({ value: Joi.boolean().strict().required() }) })
  .when(Joi.object({ kind: 'member' }).unknown(), {
    then: Joi.object({ fact: Joi.array().items(name).min(1).max(2).required() }),
  })
  .when(Joi.object({ kind: 'clock' }).unknown(), { then: Joi.object({ what: Joi.valid('today', 'now').required() }) })
  .when(Joi.object({ kind: 'record' }).unknown(), { then: Joi.object({ column: name.required() }) });
const shiftedOperand = Joi.object({
  kind: Joi.valid('shifted').required(),
  of: plainOperand.required(),
  count: Joi.number().integer().min(-99_999).max(99_999).invalid(0).required(),
  unit: Joi.valid(...intervalUnits).required(),
});
const operand = Joi.alternatives().conditional(Joi.object({ kind: 'shifted' }).unknown(), {
  then: shiftedOperand,
  otherwise: plainOperand,
});

const self = Joi.link('#condition');
/** The tree of a condition; whether its columns exist is the check's business, not the schema's. */
const conditions: Record<Condition['kind'], Joi.Schema> = {
  compare: Joi.object({
    kind: Joi.valid('compare').required(),
    left: operand.required(),
    comparison: Joi.valid('=', '<>', '<', '<=', '>', '>=').required(),
    right: operand.required(),
  }),
  in: Joi.object({
    kind: Joi.valid('in').required(),
    left: operand.required(),
    list: Joi.array().items(operand).min(1).max(500).required(),
  }),
  between: Joi.object({
    kind: Joi.valid('between').required(),
    left: operand.required(),
    low: operand.required(),
    high: operand.required(),
  }),
  like: Joi.object({ kind: Joi.valid('like').required(), left: operand.required(), pattern: operand.required() }),
  null: Joi.object({ kind: Joi.valid('null').required(), left: operand.required() }),
  has: Joi.object({
    kind: Joi.valid('has').required(),
    value: plainOperand.required(),
    column: Joi.object({ kind: Joi.valid('column').required(), path: path.required() }).required(),
  }),
  exists: Joi.object({
    kind: Joi.valid('exists').required(),
    relation: path.required(),
    where: self.allow(null).required(),
  }),
  all: Joi.object({ kind: Joi.valid('all').required(), parts: Joi.array().items(self).min(2).max(200).required() }),
  any: Joi.object({ kind: Joi.valid('any').required(), parts: Joi.array().items(self).min(2).max(200).required() }),
  not: Joi.object({ kind: Joi.valid('not').required(), part: self.required() }),
};
/** What a condition of no known kind is held against: its kind, which is then what is wrong. */
const ofSomeKind = Joi.object({ kind: Joi.valid(...Object.keys(conditions)).required() }).unknown();
// By its kind, so that a condition is looked at once and not as each of them.
const condition = Joi.alternatives()
  .conditional('.kind', {
    switch: Object.entries(conditions).map(([kind, then]) => ({ is: kind, then })),
    otherwise: ofSomeKind,
  })
  .id('condition');
export const conditionSchema = condition;

const rowFilter = Joi.alternatives().try(Joi.valid('every row'), condition);
const columns = Joi.array().items(name).unique().max(1000);

const filterOrAsSeen = Joi.alternatives().try(Joi.valid('every row', 'as seen'), condition).required();

const grant = Joi.object({
  see: Joi.object({ where: rowFilter.required(), columns: columns.required() }),
  create: Joi.object({ columns: columns.required(), keepIn: rowFilter }),
  edit: Joi.object({ where: filterOrAsSeen, columns: columns.required(), unseen: columns, keepIn: rowFilter }),
  delete: Joi.object({ where: filterOrAsSeen }),
  export: Joi.object({ where: filterOrAsSeen }),
});

const forRoles = Joi.alternatives().try(Joi.valid('everyone'), Joi.array().items(id).min(1)).required();
const exceptRoles = Joi.array().items(id).unique().required();

const fence = Joi.object({ id: id.required(), table: tableName.required(), where: condition.required(), exceptRoles });
const stamp = Joi.object({
  id: id.required(),
  table: tableName.required(),
  column: name.required(),
  on: Joi.valid('create', 'change', 'create and change').required(),
  value: operand.required(),
  to: forRoles,
});
const lifecycle = Joi.object({
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
const promise = Joi.alternatives().try(
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

const characters = Joi.number().integer().min(1).max(20);
const amount = Joi.string().pattern(/^\d{1,18}(\.\d{1,6})?$/, 'an amount like 250 or 0.5');
const settings: Record<MaskStyleName, Record<string, Joi.Schema>> = {
  all: {},
  initials: {},
  year: {},
  month: {},
  age: {},
  'stand-in': {},
  'keep last': { count: characters.required(), separators: Joi.boolean().strict() },
  'keep first': { count: characters.required(), separators: Joi.boolean().strict() },
  'keep both ends': { first: characters.required(), last: characters.required(), separators: Joi.boolean().strict() },
  // PCI DSS v4.0.1, requirement 3.4.1: at most the first six and the last four.
  card: {
    first: Joi.number().integer().min(0).max(6).required(),
    last: Joi.number().integer().min(0).max(4).required(),
  },
  'e-mail': { show: Joi.valid('first letter', 'domain').required() },
  area: { count: characters.required() },
  'ZIP area': {
    small: Joi.array()
      .items(Joi.string().pattern(/^\d{3}$/, 'three digits'))
      .min(1)
      .unique(),
  },
  step: {
    size: amount.invalid('0'),
    edges: Joi.array()
      .items(Joi.string().pattern(/^-?\d{1,18}(\.\d{1,6})?$/, 'an amount like 250 or 0.5'))
      .min(1)
      .max(50),
  },
  round: { digits: Joi.number().integer().min(-6).max(6).required() },
};
export const maskSchema = Object.entries(settings).reduce(
  (schema, [style, more]) =>
    schema.when(Joi.object({ style }).unknown(), {
      then: style === 'step' ? Joi.object(more).xor('size', 'edges').custom(ascending) : Joi.object(more),
    }),
  Joi.object({ style: Joi.valid(...Object.keys(settings)).required() }),
);

function ascending(step: { size?: string; edges?: string[] }): typeof step {
  const sound = step.edges
    ? step.edges.every((edge, i) => i === 0 || new Big(edge).gt(step.edges![i - 1]!))
    : new Big(step.size!).gt(0);
  if (!sound) throw new Error(step.edges ? 'the edges of the steps must ascend' : 'a step must be more than 0');
  return step;
}

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

const definitionSchema = Joi.object({
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
export class DefinitionError extends Error {
  constructor(readonly faults: { place: string; reason: string }[]) {
    super(faults.map((fault) => `${fault.place || 'the document'}: ${fault.reason}`).join('; '));
  }
}

/**
 * A condition as JSON has the limits of its text: this deep, and this long. Looked at before anything that would take
 * long on it.
 */
const deepest = 200;
const longestCondition = 150_000;

function tooMuchNested(input: unknown): { place: string; reason: string } | null {
  const left: [unknown, number, string][] = [[input, 0, '']];
  for (let next = left.pop(); next; next = left.pop()) {
    const [value, depth, place] = next;
    if (typeof value !== 'object' || value === null) continue;
    if (depth > deepest) return { place: place.slice(0, 80), reason: 'this is nested too deep' };
    for (const [key, each] of Object.entries(value))
      if (typeof each === 'object' && each !== null)
        left.push([each, depth + 1, depth < 4 ? `${place}/${key}` : place]);
  }
  return null;
}

/** A condition stands where `where` or `keepIn` does. */
function tooLongCondition(input: unknown): { place: string; reason: string } | null {
  const left: [unknown, string][] = [[input, '']];
  for (let next = left.pop(); next; next = left.pop()) {
    const [value, place] = next;
    if (typeof value !== 'object' || value === null) continue;
    for (const [key, each] of Object.entries(value)) {
      if (typeof each !== 'object' || each === null) continue;
      if (key === 'where' || key === 'keepIn') {
        if (sizeOf(each) > longestCondition)
          return { place: `${place}/${key}`, reason: 'this condition is too long; make it of fewer parts' };
      } else left.push([each, `${place}/${key}`]);
    }
  }
  return null;
}

/** About how many characters of JSON it takes, told without writing it. */
function sizeOf(input: unknown): number {
  let size = 0;
  const left = [input];
  while (left.length > 0 && size <= longestCondition) {
    const value = left.pop();
    if (typeof value === 'string') size += value.length + 3;
    else if (typeof value !== 'object' || value === null) size += 6;
    else
      for (const [key, each] of Object.entries(value)) {
        size += Array.isArray(value) ? 1 : key.length + 4;
        left.push(each);
      }
  }
  return size;
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
