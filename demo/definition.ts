import { parseCondition } from '../core/condition/parse';
import { definitionFormat, definitionVersion, type Page, type PortalDefinition } from '../core/definition/definition';

const when = (text: string) => parseCondition(text).condition;

/** Each page keeps to what its title says: a person with two roles sees more of the tables than one page is about. */
const pages: Page[] = [
  {
    id: 'my-wells', title: 'My wells', intro: 'The wells in your name. Tell us when the treatment changes.', roles: ['well_owner'],
    sections: [{
      kind: 'list', table: 'wells', where: when('owner_id = :member.owners.id'), sort: [{ column: 'code', descending: false }],
      columns: ['code', 'address', 'parish', 'depth_m', 'state', 'treatment'],
      record: ['code', 'address', 'postcode', 'parish', 'depth_m', 'casing', 'drilled_on', 'state', 'treatment'],
    }],
  },
  {
    id: 'visits', title: 'Visits', intro: 'Visits to your wells, newest first. You can leave a note for the sampler.', roles: ['well_owner'],
    sections: [{
      kind: 'list', table: 'visits', where: when('well.owner_id = :member.owners.id'), sort: [{ column: 'planned_for', descending: true }],
      columns: ['well.code', 'planned_for', 'state', 'fee', 'paid'],
      record: ['well.code', 'well.address', 'asked_on', 'planned_for', 'state', 'access_note', 'fee', 'paid'],
    }],
  },
  {
    id: 'my-details', title: 'My details', intro: 'What we hold about you. Please keep it up to date.', roles: ['well_owner'],
    sections: [{
      kind: 'list', table: 'owners', where: when('id = :member.owners.id'), sort: [],
      columns: ['name', 'phone', 'postal_address', 'contact_by'],
      record: ['name', 'email', 'phone', 'contact_by', 'postal_address', 'parish', 'birth_date', 'tax_number', 'iban'],
    }],
  },
  {
    id: 'my-visits', title: 'My visits', intro: 'Visits assigned to you or planned by you.', roles: ['sampler'],
    sections: [{
      kind: 'list', table: 'visits', where: when('sampler_id = :member.samplers.id OR planned_by = :member.id'), sort: [{ column: 'planned_for', descending: true }],
      columns: ['well.code', 'planned_for', 'well.parish', 'well.owner.name', 'state', 'seal_number'],
      record: ['well.code', 'well.address', 'well.postcode', 'well.owner.name', 'well.owner.phone', 'planned_for', 'state', 'access_note', 'seal_number'],
    }],
  },
  {
    id: 'advisories', title: 'Advisories', intro: 'What holds now for private wells in the county.', roles: ['well_owner', 'sampler'],
    sections: [{
      kind: 'list', table: 'advisories', where: 'every row', sort: [{ column: 'valid_until', descending: true }],
      columns: ['parish', 'title', 'valid_until'], record: ['parish', 'title', 'text', 'valid_until'],
    }],
  },
];

/** The demo's portal. `withAccess` false leaves Access and Pages empty, for building them by hand. */
export function demoDefinition(schema: string, withAccess = true): PortalDefinition {
  return {
    format: definitionFormat,
    formatVersion: definitionVersion,
    portal: { slug: 'alder-fen', name: 'Alder Fen Wells', timeZone: 'Europe/London', colour: '#1f5f85' },
    source: { kind: 'mariadb', schema },
    tables: {
      owners: {
        columns: {
          phone: { dataClass: 'contact' }, email: { label: 'E-mail', dataClass: 'contact' }, postal_address: { dataClass: 'contact' }, birth_date: { label: 'Born', dataClass: 'identity' },
          tax_number: { dataClass: 'identity' }, iban: { label: 'Account', dataClass: 'financial' }, contact_by: { label: 'Write to me by' },
        },
      },
      wells: { columns: { depth_m: { label: 'Depth, m' }, drilled_on: { label: 'Drilled' }, latitude: { dataClass: 'location' }, longitude: { dataClass: 'location' } } },
    },
    roles: [{ id: 'well_owner', name: 'Well owner' }, { id: 'sampler', name: 'Sampler' }],
    rosters: [
      { table: 'owners', name: 'name', email: 'email', role: 'well_owner' },
      { table: 'samplers', name: 'name', email: 'email', role: 'sampler' },
    ],
    access: withAccess ? demoAccess() : {},
    masks: withAccess ? [
      { id: 'owners-tax_number', table: 'owners', column: 'tax_number', mask: { style: 'keep last', count: 3 }, to: 'everyone', exceptRoles: [] },
      { id: 'owners-birth_date', table: 'owners', column: 'birth_date', mask: { style: 'year' }, to: 'everyone', exceptRoles: [] },
      { id: 'owners-iban', table: 'owners', column: 'iban', mask: { style: 'keep last', count: 4 }, to: 'everyone', exceptRoles: [] },
    ] : [],
    pages: withAccess ? pages : [],
  };
}

function demoAccess(): PortalDefinition['access'] {
  const published = when('published = TRUE AND (valid_until IS NULL OR valid_until >= :today)');
  return {
    owners: {
      well_owner: {
        see: { where: when('id = :member.owners.id'), columns: ['id', 'name', 'email', 'phone', 'birth_date', 'tax_number', 'iban', 'postal_address', 'parish', 'contact_by'] },
        edit: { where: 'as seen', columns: ['phone', 'postal_address', 'contact_by'] },
      },
      sampler: { see: { where: when('parish = :member.samplers.district'), columns: ['name', 'phone', 'parish'] } },
    },
    wells: {
      well_owner: {
        see: { where: when('owner_id = :member.owners.id'), columns: ['code', 'owner_id', 'address', 'postcode', 'parish', 'depth_m', 'casing', 'drilled_on', 'state', 'treatment'] },
        edit: { where: 'as seen', columns: ['treatment'] },
      },
      sampler: { see: { where: when('EXISTS (visits WHERE visits.sampler_id = :member.samplers.id OR visits.planned_by = :member.id)'), columns: ['code', 'owner_id', 'address', 'postcode', 'parish', 'depth_m', 'state'] } },
    },
    visits: {
      well_owner: {
        see: { where: when('well.owner_id = :member.owners.id'), columns: ['well_id', 'asked_on', 'planned_for', 'state', 'access_note', 'fee', 'paid'] },
        edit: { where: when("well.owner_id = :member.owners.id AND state IN ('asked', 'planned')"), columns: ['access_note'] },
      },
      sampler: {
        see: { where: when('sampler_id = :member.samplers.id OR planned_by = :member.id'), columns: ['well_id', 'sampler_id', 'planned_by', 'asked_on', 'planned_for', 'state', 'access_note', 'seal_number'] },
        edit: { where: 'as seen', columns: ['planned_for', 'access_note', 'seal_number'] },
      },
    },
    advisories: {
      well_owner: { see: { where: published, columns: ['parish', 'title', 'text', 'valid_until'] } },
      sampler: { see: { where: published, columns: ['parish', 'title', 'text', 'valid_until'] } },
    },
  };
}
