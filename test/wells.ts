import { emptyDefinition, type Grant, type MaskRule, type PortalDefinition } from '../core/definition/definition';
import { parseCondition } from '../core/condition/parse';
import { withManyRelations, type Catalogue, type Column } from '../core/table/catalogue';
import type { Person } from '../core/access/person';

/** A small catalogue in the demo's shape for tests without a database. */
export function column(name: string, type: Column['type'], more: Partial<Column> = {}): Column {
  const text = type === 'text' || type === 'long text' || type === 'one choice' || type === 'several choices';
  return {
    name,
    type,
    nativeType: type,
    nullable: true,
    hasDefault: false,
    automatic: false,
    unique: false,
    ...(text ? { collation: 'utf8mb4_general_ci' } : {}),
    ...more,
  };
}

export const wellsCatalogue: Catalogue = withManyRelations({
  schema: 'wells',
  tables: [
    {
      name: 'owners',
      key: ['id'],
      relations: [],
      columns: [
        column('id', 'whole number', { nullable: false, automatic: true }),
        column('name', 'text', { maxLength: 80 }),
        column('email', 'text'),
        column('phone', 'text'),
        column('birth_date', 'date'),
        column('parish', 'text'),
      ],
    },
    {
      name: 'wells',
      key: ['id'],
      relations: [
        { name: 'owner', column: 'owner_id', table: 'owners', targetColumn: 'id' },
        { name: 'sampler', column: 'sampler_id', table: 'samplers', targetColumn: 'id' },
      ],
      columns: [
        column('id', 'whole number', { nullable: false, automatic: true }),
        column('code', 'text'),
        column('owner_id', 'whole number'),
        column('sampler_id', 'whole number'),
        column('depth_m', 'decimal', { precision: 5, scale: 1 }),
        column('state', 'one choice', { choices: ['active', 'resting', 'closed'] }),
        column('note', 'text'),
        column('treatment', 'several choices', { choices: ['softener', 'UV', 'iron filter'] }),
      ],
    },
    {
      name: 'samplers',
      key: ['id'],
      relations: [],
      columns: [
        column('id', 'whole number', { nullable: false, automatic: true }),
        column('name', 'text'),
        column('email', 'text'),
        column('district', 'text'),
      ],
    },
    {
      name: 'visits',
      key: ['id'],
      relations: [{ name: 'well', column: 'well_id', table: 'wells', targetColumn: 'id' }],
      columns: [
        column('id', 'whole number', { nullable: false, automatic: true }),
        column('well_id', 'whole number'),
        column('sampler_id', 'whole number'),
        column('planned_for', 'date and time'),
        column('asked_on', 'date'),
        column('fee', 'decimal', { precision: 8, scale: 2 }),
      ],
    },
  ],
});

export const when = (text: string) => parseCondition(text).condition;

/** Hides what is noted of a well from everyone. */
export const noteMask: MaskRule = {
  id: 'm',
  table: 'wells',
  column: 'note',
  mask: { style: 'all' },
  to: 'everyone',
  exceptRoles: [],
};

export function wellsDefinition(
  access: Record<string, Record<string, Grant>>,
  masks: MaskRule[] = [],
): PortalDefinition {
  return {
    ...emptyDefinition({ slug: 'wells', name: 'Wells', timeZone: 'Europe/London', colour: '#1f5f85' }, 'wells'),
    roles: [
      { id: 'owner', name: 'Owner' },
      { id: 'sampler', name: 'Sampler' },
      { id: 'desk', name: 'Desk' },
    ],
    rosters: [
      { table: 'owners', name: 'name', email: 'email', role: 'owner' },
      { table: 'samplers', name: 'name', email: 'email', role: 'sampler' },
    ],
    access,
    masks,
  };
}

export function person(roles: string[], rows: Person['rows'] = {}): Person {
  return { kind: 'member', id: 1, email: 'a@example.org', organisation: null, roles, rows };
}
