import { listOf } from '../../test/pages';
import { findFaults } from '../../sections/definition';
import { wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import type { PeopleFacts } from './people-facts';

export const sound = () =>
  wellsDefinition({
    wells: {
      owner: {
        see: { where: when('owner_id = :member.owners.id'), columns: ['code', 'note', 'state', 'owner_id'] },
        edit: { where: 'as seen', columns: ['note'] },
      },
    },
  });

export type Draft = ReturnType<typeof sound>;

export const own = (d: Draft) => d.access.wells!.owner!;

/** Codes are required, and no two wells have the same. */
export const strict = {
  ...wellsCatalogue,
  tables: wellsCatalogue.tables.map((table) => ({
    ...table,
    columns: table.columns.map((each) =>
      table.name === 'wells' && each.name === 'code' ? { ...each, nullable: false, unique: true } : each,
    ),
  })),
};

export const kinds = (
  d: Draft,
  catalogue = strict,
  people: PeopleFacts | null = null,
  unindexed: { table: string; column: string }[] = [],
) => findFaults(d, catalogue, [], people, unindexed);

export const mistakes: [string, (d: Draft) => void][] = [
  [
    'everyone reads everything',
    (d) => {
      own(d).see!.where = 'every row';
    },
  ],
  [
    'filter is never true',
    (d) => {
      own(d).delete = { where: when("state = 'active' AND state = 'closed'") };
    },
  ],
  [
    'filter is always true',
    (d) => {
      own(d).see!.where = when("state = 'active' OR NOT (state = 'active') OR state IS NULL");
    },
  ],
  [
    'edit wider than see',
    (d) => {
      own(d).edit!.where = 'every row';
    },
  ],
  [
    'maker leaves no mark',
    (d) => {
      own(d).create = { columns: ['code', 'note', 'state'] };
    },
  ],
  [
    'required column nobody fills',
    (d) => {
      own(d).create = { columns: ['note', 'owner_id'] };
    },
  ],
  [
    "maker can't see it",
    (d) => {
      own(d).create = { columns: ['code', 'note', 'state', 'owner_id'], keepIn: 'every row' };
    },
  ],
  [
    'edit moves it out of reach',
    (d) => {
      own(d).edit = { where: 'as seen', columns: ['note', 'owner_id'], keepIn: 'every row' };
    },
  ],
  [
    'own mark can be changed',
    (d) => {
      own(d).edit!.columns.push('owner_id');
    },
  ],
  [
    'masked but editable',
    (d) => {
      d.masks = [{ id: 'm', table: 'wells', column: 'note', mask: { style: 'all' }, to: ['owner'], exceptRoles: [] }];
    },
  ],
  [
    'rights can be written',
    (d) => {
      own(d).see!.where = when('owner.parish = :member.owners.parish');
      d.access.owners = {
        owner: {
          see: { where: when('id = :member.owners.id'), columns: ['name', 'parish'] },
          edit: { where: 'as seen', columns: ['parish'] },
        },
      };
    },
  ],
  [
    'rights can be written',
    (d) => {
      d.rosters[1]!.roles = [{ role: 'desk', where: when("district = 'all'") }];
      d.access.samplers = {
        owner: { see: { where: when("name = 'x'"), columns: ['name'] }, create: { columns: ['name', 'district'] } },
      };
    },
  ],
  [
    'visitor writes',
    (d) => {
      d.roles.push({ id: 'public', name: 'Public', for: 'visitors' });
      d.access.wells!.public = {
        see: { where: when("state = 'active'"), columns: ['code', 'note'] },
        edit: { where: 'as seen', columns: ['note'] },
      };
    },
  ],
  [
    'visitor sees personal data',
    (d) => {
      d.roles.push({ id: 'public', name: 'Public', for: 'visitors' });
      d.tables.wells = { columns: { note: { dataClass: 'contact' } } };
      d.access.wells!.public = { see: { where: when("state = 'active'"), columns: ['code', 'note'] } };
    },
  ],
  [
    'unique column tells',
    (d) => {
      own(d).edit!.columns.push('code');
    },
  ],
  [
    'fence is missing',
    (d) => {
      d.fences = [{ id: 'side', table: 'wells', where: when("note <> 'x'"), exceptRoles: [] }];
      d.access.visits = { owner: { see: { where: when('well.owner_id = :member.owners.id'), columns: ['id'] } } };
    },
  ],
  [
    'page sorts by a mask',
    (d) => {
      d.masks = [{ id: 'm', table: 'wells', column: 'code', mask: { style: 'all' }, to: 'everyone', exceptRoles: [] }];
      d.pages = [
        {
          id: 'wells',
          title: 'Wells',
          intro: '',
          audience: { roles: ['owner'] },
          sections: [listOf('wells', ['state'], { sort: [{ column: 'code', descending: false }] })],
        },
      ];
    },
  ],
];
