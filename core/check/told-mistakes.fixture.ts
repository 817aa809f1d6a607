import { when } from '../../test/wells';
import { own, type Draft } from './mistakes.fixture';

const guest = { id: 'guest', name: 'Guest', withoutRow: true as const };
const or = 'owner_id = :member.owners.id OR sampler_id = :member.samplers.id';

/**
 * More of them, with the words that tell what is meant; most come with the part of the rule that is wrong in many
 * shapes.
 */
export const told: [string, RegExp, (d: Draft) => void][] = [
  [
    'field rule does not work',
    /of wells does not work: there is no gone any more/,
    (d) => {
      d.tables.wells = { rules: [{ id: 'r', does: 'required', columns: ['note', 'gone'] }] };
    },
  ],
  [
    'field rule tells',
    /A field rule of wells tells Owner of wells.sampler_id/,
    (d) => {
      const words = { id: 'r', does: 'refused' as const, message: 'No.' };
      d.tables.wells = { rules: [{ ...words, columns: ['note'], when: when("sampler_id = 3 AND note = 'x'") }] };
    },
  ],
  [
    'own mark can be changed',
    /may change wells.sampler_id, by which records are told to be somebody's/,
    (d) => {
      own(d).see!.where = when(or);
      own(d).edit!.columns.push('sampler_id');
    },
  ],
  [
    'own mark can be changed',
    /may change wells.owner_id/,
    (d) => {
      own(d).see!.where = when(`(${or}) OR state = 'active' AND owner_id = :member.owners.id`);
      own(d).edit!.columns.push('owner_id');
    },
  ],
  [
    'branch without the member',
    /Every Owner sees the rows of wells where state is "active", whosever/,
    (d) => {
      own(d).see!.where = when("owner_id = :member.owners.id OR state = 'active'");
    },
  ],
  [
    'branch without the member',
    /whosever they are/,
    (d) => {
      own(d).see!.where = when("owner_id = :member.owners.id OR (state = 'active' AND note IS NULL)");
    },
  ],
  [
    'branch without the member',
    /EXISTS|related|visits/,
    (d) => {
      own(d).see!.where = when('owner_id = :member.owners.id OR EXISTS (visits WHERE visits.fee > 10)');
    },
  ],
  [
    'another number',
    /see filter of Owner on wells compares owner_id/,
    (d) => {
      own(d).see!.where = when('owner_id = :member.id');
    },
  ],
  [
    'another number',
    /edit filter of Owner on wells compares owner_id/,
    (d) => {
      own(d).edit!.where = when('owner_id = :member.id AND owner_id = :member.owners.id');
    },
  ],
  [
    'another number',
    /on owners compares id/,
    (d) => {
      d.access.owners = { owner: { see: { where: when('id = :member.id'), columns: ['name'] } } };
    },
  ],
  [
    'another number',
    /compares sampler_id/,
    (d) => {
      own(d).see!.where = when('owner_id = :member.owners.id OR sampler_id = :member.id');
    },
  ],
  [
    'export wider than see',
    /may export rows of wells that they may not see/,
    (d) => {
      own(d).export = { where: 'every row' };
    },
  ],
  [
    'export wider than see',
    /may export rows/,
    (d) => {
      own(d).export = { where: when("state = 'active'") };
    },
  ],
  [
    'comments without rows',
    /may read comments on wells and sees no row of it/,
    (d) => {
      delete own(d).see;
      delete own(d).edit;
      own(d).comments = { forAll: [] };
    },
  ],
  [
    'files without rows',
    /may read files on wells and sees no row of it/,
    (d) => {
      delete own(d).see;
      delete own(d).edit;
      own(d).files = { forAll: [] };
    },
  ],
  [
    'history without rows',
    /may read what changed in wells and sees no row of it/,
    (d) => {
      delete own(d).see;
      delete own(d).edit;
      (d.tables.wells ??= {}).history = {};
      own(d).history = true;
    },
  ],
  [
    'no history is kept',
    /may read what changed in wells, of which nothing is kept/,
    (d) => {
      own(d).history = true;
      delete d.tables.wells?.history;
    },
  ],
  [
    'visitor reads history',
    /Public reads what changed in wells, without signing in/,
    (d) => {
      d.roles.push({ id: 'public', name: 'Public', for: 'visitors' });
      (d.tables.wells ??= {}).history = {};
      d.access.wells!.public = { see: { where: when("state = 'active'"), columns: ['code'] }, history: true };
    },
  ],
  [
    'visitor reads files',
    /Public opens the files that members hang on wells, without signing in/,
    (d) => {
      d.roles.push({ id: 'public', name: 'Public', for: 'visitors' });
      d.access.wells!.public = {
        see: { where: when("state = 'active'"), columns: ['code'] },
        files: { forAll: [] },
      };
    },
  ],
  [
    'files stay closed',
    /reads of the files on wells only those that they added themselves/,
    (d) => {
      own(d).see!.where = when('EXISTS (visits WHERE visits.sampler_id = :member.samplers.id)');
      own(d).files = { forAll: ['write'] };
    },
  ],
  [
    'visitor reads comments',
    /Public reads what members say of wells, without signing in/,
    (d) => {
      d.roles.push({ id: 'public', name: 'Public', for: 'visitors' });
      d.access.wells!.public = {
        see: { where: when("state = 'active'"), columns: ['code'] },
        comments: { forAll: [] },
      };
    },
  ],
  [
    'comments stay closed',
    /reads of the comments on wells only those that they wrote themselves/,
    (d) => {
      own(d).see!.where = when('EXISTS (visits WHERE visits.sampler_id = :member.samplers.id)');
      own(d).comments = { forAll: ['write'] };
    },
  ],
  [
    'rows without columns',
    /sees rows of wells and no column of them/,
    (d) => {
      own(d).see!.columns = [];
      delete own(d).edit;
    },
  ],
  [
    'columns without rows',
    /may change note of wells and sees no row of it/,
    (d) => {
      delete own(d).see;
      own(d).edit!.where = 'every row';
    },
  ],
  [
    'mask on the address',
    /wells.id is masked for Owner, and is every record's address/,
    (d) => {
      own(d).see!.columns.push('id');
      d.masks = [{ id: 'm', table: 'wells', column: 'id', mask: { style: 'all' }, to: ['owner'], exceptRoles: [] }];
    },
  ],
  [
    'mask with exceptions',
    /Owner is excepted from the mask m \(.*\) and reads a column whole: wells.note/,
    (d) => {
      d.masks = [
        { id: 'm', table: 'wells', column: 'note', mask: { style: 'all' }, to: 'everyone', exceptRoles: ['owner'] },
      ];
    },
  ],
  [
    'mask with exceptions',
    /reads 2 columns whole/,
    (d) => {
      d.tables.wells = { columns: { note: { dataClass: 'contact' }, code: { dataClass: 'contact' } } };
      d.masks = [{ id: 'm', dataClass: 'contact', mask: { style: 'all' }, to: 'everyone', exceptRoles: ['owner'] }];
    },
  ],
  [
    'empty values fall out',
    /doesn't see the 7 rows of wells in which state is empty/,
    (d) => {
      own(d).see!.where = when("owner_id = :member.owners.id AND state <> 'closed'");
    },
  ],
  [
    'empty values fall out',
    /in which state is empty/,
    (d) => {
      own(d).see!.where = when("owner_id = :member.owners.id AND NOT (state IN ('closed', 'resting'))");
    },
  ],
  [
    'empty values fall out',
    /in which note is empty/,
    (d) => {
      own(d).see!.where = when("owner_id = :member.owners.id AND NOT (note LIKE 'x%')");
    },
  ],
  [
    'nobody gets a row',
    /lets no row through for any of its 3 members/,
    (d) => {
      own(d).see!.where = when('owner_id = :member.owners.id AND depth_m > 9000');
    },
  ],
  [
    'narrow beside wide',
    /narrows nothing: everyone in that role is Desk too, who sees more/,
    (d) => {
      d.access.wells!.desk = {
        see: {
          where: when('owner_id = :member.owners.id OR sampler_id = :member.samplers.id'),
          columns: ['code', 'note', 'state', 'owner_id'],
        },
      };
    },
  ],
  [
    'filter does not work',
    /there is no column vanished/,
    (d) => {
      own(d).see!.where = when('vanished = 1');
    },
  ],
  [
    'filter does not work',
    /depth_m/,
    (d) => {
      own(d).edit!.where = when("depth_m = 'deep'");
    },
  ],
  [
    'filter is never true',
    /delete filter of Owner on wells is never true/,
    (d) => {
      own(d).delete = { where: when('owner_id = 1 AND owner_id = 2') };
    },
  ],
  [
    'filter is never true',
    /export filter/,
    (d) => {
      own(d).export = { where: when('depth_m > 5 AND depth_m < 3') };
    },
  ],
  [
    'key does not tell apart',
    /The key that was given to wells is empty or the same/,
    (d) => {
      d.tables.wells = { ...d.tables.wells, key: ['note'] };
    },
  ],
  [
    'source away',
    /The source lab can't be reached/,
    (d) => {
      d.sources = { lab: { kind: 'mariadb', schema: 'lab' } };
      d.access['lab:bottles'] = { owner: { see: { where: 'every row', columns: ['code'] } } };
    },
  ],
  [
    'domain of everybody',
    /Open to domains: anybody can get an address of gmail.com and GMX.de/,
    (d) => {
      d.roles.push(guest);
      d.openTo = { domains: ['fen.example.org', 'gmail.com', 'GMX.de'], roles: ['guest'] };
    },
  ],
  [
    'sign-up does not work',
    /Open to domains: Owner is not meant for people without a row/,
    (d) => {
      d.openTo = { domains: ['fen.example.org'], roles: ['owner'] };
    },
  ],
  [
    'sign-up does not work',
    /Open to domains: no role is chosen/,
    (d) => {
      d.openTo = { domains: ['fen.example.org'], roles: [] };
    },
  ],
  ...['owner_id = :member.owners.id OR note IS NULL', "state = 'active'", 'NOT (owner_id IS NOT NULL)'].map(
    (where): (typeof told)[number] => [
      'seen without a row',
      /Whoever has an address of an open domain may see rows of wells, as Guest/,
      (d) => {
        d.roles.push(guest);
        d.openTo = { domains: ['fen.example.org'], roles: ['guest'] };
        d.access.wells!.guest = { see: { where: when(where), columns: ['code'] } };
      },
    ],
  ),
];
