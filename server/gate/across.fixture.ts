import fc from 'fast-check';
import type { Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import type { Grant } from '../../core/definition/definition';
import type { Mask } from '../../core/mask/mask';
import type { ListQuestion } from './read/list';

export const when = (text: string) => parseCondition(text).condition;

export const moment = new Date('2026-11-23T12:00:00Z');

export const everything: ListQuestion = {
  columns: [],
  sort: [{ path: ['id'], descending: false }],
  where: [],
  search: '',
  after: null,
  before: null,
  size: 60,
};

export const columns = {
  visits: ['id', 'well_id', 'sampler_id', 'planned_for', 'state', 'fee'],
  wells: ['id', 'code', 'parish', 'owner_id', 'depth_m', 'latitude', 'treatment', 'drilled_on', 'state'],
  owners: ['id', 'name', 'phone', 'birth_date', 'iban', 'parish'],
};

const filters = {
  visits: [
    'id > 0',
    'id < 400',
    "state <> 'cancelled'",
    'sampler_id = :member.samplers.id',
    'well.owner_id = :member.owners.id',
  ],
  wells: [
    'id > 0',
    "state = 'active'",
    'owner_id = :member.owners.id',
    "owner.parish = 'Saltby'",
    'EXISTS (visits WHERE visits.sampler_id = :member.samplers.id)',
    'depth_m < 30',
  ],
  owners: ['id > 0', 'id = :member.owners.id', 'parish = :member.samplers.district', "name LIKE '%a'"],
};

type Name = keyof typeof columns;

export const masks: Record<string, Mask> = {
  phone: { style: 'keep last', count: 3 },
  birth_date: { style: 'year' },
  latitude: { style: 'round', digits: 1 },
  owner_id: { style: 'stand-in' },
  code: { style: 'keep first', count: 2 },
  name: { style: 'initials' },
  well_id: { style: 'step', size: '10' },
};

export const person: Person = {
  kind: 'member',
  id: 4,
  email: 'b@example.org',
  organisation: null,
  roles: ['one', 'two'],
  rows: { samplers: { id: 4, district: 'Saltby' }, owners: { id: 17 } },
};

export interface Policy {
  grants: Record<Name, (Grant | null)[]>;
  masked: { table: Name; column: string; role: string }[];
}

const grantOf = (table: Name) =>
  fc.option(
    fc
      .record({ where: fc.constantFrom(...filters[table]), columns: fc.subarray(columns[table], { minLength: 3 }) })
      .map((see): Grant => ({ see: { where: when(see.where), columns: see.columns }, export: { where: 'as seen' } })),
    { freq: 5 },
  );

export const policies: fc.Arbitrary<Policy> = fc.record({
  grants: fc.record({
    visits: fc.tuple(grantOf('visits'), grantOf('visits')),
    wells: fc.tuple(grantOf('wells'), grantOf('wells')),
    owners: fc.tuple(grantOf('owners'), grantOf('owners')),
  }),
  masked: fc.array(
    fc.constantFrom(
      ...(Object.keys(columns) as Name[]).flatMap((table) =>
        columns[table]
          .filter((column) => masks[column])
          .flatMap((column) => ['one', 'two'].map((role) => ({ table, column, role }))),
      ),
    ),
    { maxLength: 4 },
  ),
});
