import { demoDefinition } from '../../demo/definition';
import type { Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';

export const when = (text: string) => parseCondition(text).condition;

const base = demoDefinition('both');

export const definition: PortalDefinition = {
  ...base,
  roles: [...base.roles, { id: 'desk', name: 'Desk' }],
  access: {
    ...base.access,
    visits: {
      ...base.access.visits,
      desk: {
        see: {
          where: 'every row',
          columns: ['id', 'well_id', 'sampler_id', 'planned_for', 'asked_on', 'state', 'fee', 'paid'],
        },
        export: { where: when("state = 'reported'") },
        create: { columns: ['well_id', 'asked_on', 'fee', 'seal_number'] },
        edit: { where: 'every row', columns: ['fee', 'paid', 'well_id'] },
        delete: { where: when("state = 'cancelled'") },
      },
    },
    wells: {
      ...base.access.wells,
      desk: {
        see: {
          where: when("'UV' IN treatment OR EXISTS (visits WHERE visits.fee > 60)"),
          columns: ['id', 'code', 'parish', 'depth_m', 'state', 'owner_id', 'treatment', 'latitude', 'drilled_on'],
        },
        edit: { where: 'every row', columns: ['treatment', 'state', 'depth_m'] },
        delete: { where: 'every row' },
      },
    },
    owners: {
      ...base.access.owners,
      desk: { see: { where: 'every row', columns: ['id', 'birth_date', 'parish', 'iban', 'phone', 'tax_number'] } },
    },
  },
  masks: [
    { id: 'fee', table: 'visits', column: 'fee', mask: { style: 'step', size: '10' }, to: ['desk'], exceptRoles: [] },
    {
      id: 'phone',
      table: 'owners',
      column: 'phone',
      mask: { style: 'keep last', count: 3, separators: true },
      to: ['desk'],
      exceptRoles: [],
    },
    { id: 'born', table: 'owners', column: 'birth_date', mask: { style: 'age' }, to: ['desk'], exceptRoles: [] },
    {
      id: 'place',
      table: 'wells',
      column: 'latitude',
      mask: { style: 'round', digits: 2 },
      to: ['desk'],
      exceptRoles: [],
    },
    { id: 'paid', table: 'visits', column: 'paid', mask: { style: 'all' }, to: ['desk'], exceptRoles: [] },
    {
      id: 'tax',
      table: 'owners',
      column: 'tax_number',
      mask: { style: 'keep both ends', first: 1, last: 2 },
      to: 'everyone',
      exceptRoles: [],
    },
  ],
  lifecycles: [
    {
      table: 'visits',
      column: 'state',
      start: 'asked',
      moves: [
        {
          id: 'pay',
          name: 'Report',
          from: ['at lab'],
          to: 'reported',
          roles: ['sampler'],
          where: when('planned_for < :now - INTERVAL 1 DAY'),
          needs: ['seal_number'],
        },
      ],
    },
  ],
  promises: [
    {
      id: 'a',
      who: { role: 'sampler' },
      says: 'may only',
      operation: 'see',
      table: 'visits',
      where: when("state <> 'cancelled'"),
    },
    {
      id: 'b',
      who: { everyone: true, exceptRoles: ['desk'] },
      says: 'may never',
      operation: 'see',
      table: 'owners',
      column: 'iban',
    },
    {
      id: 'c',
      who: { role: 'well_owner' },
      says: 'must be able to',
      operation: 'see',
      table: 'wells',
      where: when('owner_id = :member.owners.id'),
    },
  ],
};

export const people: Record<string, Person> = {
  owner: {
    kind: 'member',
    id: 1,
    email: 'o@example.org',
    organisation: null,
    roles: ['well_owner'],
    rows: { owners: { id: 17 } },
  },
  sampler: {
    kind: 'member',
    id: 9,
    email: 's@example.org',
    organisation: null,
    roles: ['sampler'],
    rows: { samplers: { id: 9, district: 'Saltby' } },
  },
  both: {
    kind: 'member',
    id: 4,
    email: 'b@example.org',
    organisation: null,
    roles: ['desk', 'sampler', 'well_owner'],
    rows: { samplers: { id: 4, district: 'Saltby' }, owners: { id: 42 } },
  },
  desk: { kind: 'member', id: 5, email: 'd@example.org', organisation: null, roles: ['desk'], rows: {} },
};
