import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { MemoryRecords } from '../../test/memory-records';
import { evaluate } from '../condition/evaluate';
import { printCondition } from '../condition/print';
import type { Condition } from '../condition/tree';
import type { Grant } from '../definition/definition';
import type { HandsOver, LooksAfter, Steward } from '../definition/steward';
import { findStewardFaults } from '../check/steward-findings';
import { findTable } from '../table/catalogue';
import type { Row } from '../table/value';
import { lensesOf } from './lens';
import { rolesOfRows } from './roster-roles';
import { stewardGrant } from './steward-grants';

const owners = findTable(wellsCatalogue, 'owners')!;
const roles = ['plain', 'keen', 'odd', 'lead'];

/** A roster whose rows have none, one or several roles, by rules that may be unknown of a row. */
const definitionWith = (rules: { role: string; where: string }[], all: string | undefined, steward: Steward) => ({
  ...wellsDefinition({}),
  roles: roles.map((id) => ({ id, name: `Role ${id}` })),
  rosters: [
    {
      table: 'owners',
      name: 'name',
      email: 'email',
      ...(all === undefined ? {} : { role: all }),
      roles: rules.map(({ role, where }) => ({ role, where: when(where) })),
    },
  ],
  stewards: [steward],
});

const looksAfter = (over: Partial<LooksAfter> = {}): LooksAfter => ({
  id: 'some',
  role: 'lead',
  does: 'look after people',
  roster: 'owners',
  roles: ['plain'],
  sees: [],
  may: [],
  ...over,
});

describe('who is looked after', () => {
  const rule = fc.record({
    role: fc.constantFrom(...roles),
    where: fc.constantFrom(
      "parish = 'North'",
      "parish <> 'North'",
      "NOT (parish = 'South' AND name LIKE 'A%')",
      "parish IN ('North', 'South') OR name IS NULL",
      "name BETWEEN 'A' AND 'C'",
      "NOT (name BETWEEN 'A' AND 'C')",
    ),
  });
  const row = fc.record({
    id: fc.integer({ min: 1, max: 4 }),
    name: fc.constantFrom<string | null>('Ada', 'Bram', 'Zoe', null),
    email: fc.constant('a@example.org'),
    parish: fc.constantFrom<string | null>('North', 'South', null),
  });

  it('is who the rosters give these roles and no others, in the slice, and never oneself', () => {
    let inside = 0;
    let outside = 0;
    fc.assert(
      fc.property(
        fc.uniqueArray(rule, { selector: (each) => each.role, minLength: 1, maxLength: 4 }),
        fc.option(fc.constantFrom(...roles), { nil: undefined }),
        fc.uniqueArray(fc.constantFrom(...roles), { minLength: 1 }),
        row,
        fc.option(row, { nil: undefined }),
        fc.boolean(),
        (rules, all, allowed, person, own, isNarrow) => {
          const steward = looksAfter({
            roles: allowed,
            ...(isNarrow ? { where: when('parish = :member.owners.parish') } : {}),
          });
          const definition = definitionWith(rules, all, steward);
          const grant = stewardGrant(definition, wellsCatalogue, owners, steward);
          const has = rolesOfRows(definition, wellsCatalogue, { owners: person as Row });
          const facts = own
            ? Object.fromEntries(Object.entries(own).map(([name, value]) => [`owners.${name}`, value]))
            : {};
          const expected =
            has.length > 0 &&
            has.every((role) => allowed.includes(role)) &&
            person.id !== own?.id &&
            (!isNarrow || (person.parish !== null && person.parish === own?.parish));
          const where = grant?.see?.where;
          const memory = new MemoryRecords(wellsCatalogue, { owners: [person as Row] });
          const found =
            typeof where === 'object' &&
            evaluate(
              where,
              { catalogue: wellsCatalogue, table: owners, member: true },
              memory.record('owners', person as Row),
              {
                facts,
                today: '2026-11-26',
                now: '2026-11-26 10:00:00',
              },
            ) === true;
          expect(found).toBe(expected);
          if (expected) inside++;
          else outside++;
        },
      ),
      { numRuns: 3000 },
    );
    expect([inside > 150, outside > 150]).toEqual([true, true]);
  });

  it('closes where its condition, its columns or its roles are gone', () => {
    const lens = (over: Partial<LooksAfter>) => {
      const definition = definitionWith([], 'plain', looksAfter(over));
      return lensesOf(definition, wellsCatalogue, owners, 'lead').filter((each) => each.steward === 'some');
    };
    expect(lens({})).toHaveLength(1);
    expect(lens({ where: when('parrish = 1') })).toEqual([]);
    expect(lens({ where: when(':member.owners.id IS NULL') })).toEqual([]);
    expect(lens({ roles: ['keen'] })).toEqual([]);
    // Moves are the grant's alone.
    expect(lens({ changes: ['name'] })[0]).toMatchObject({ moves: null, remove: null, export: null });
  });
});

describe('findings of stewards', () => {
  const kinds = (steward: Steward, change: (d: ReturnType<typeof definitionWith>) => void = () => undefined) => {
    const definition = definitionWith([], 'plain', steward);
    change(definition);
    return findStewardFaults(definition, wellsCatalogue).map(({ kind }) => kind);
  };
  const narrow = { where: when("parish = 'North'") };
  const handsOver: Steward = {
    id: 'some',
    role: 'lead',
    does: 'hand over',
    roster: 'owners',
    tables: [{ table: 'wells', column: 'owner_id' }],
  };
  const sees = (d: ReturnType<typeof definitionWith>) => {
    const see = { where: 'every row' as const, columns: ['id', 'name', 'code', 'owner_id'] };
    d.access = { wells: { lead: { see } }, owners: { lead: { see } } };
  };

  it.each<[string, Steward, string[]]>([
    ['a sound one', looksAfter(narrow), []],
    ['one of everyone', looksAfter(), ['steward of everyone']],
    ['no such role', looksAfter({ ...narrow, role: 'nobody' }), ['steward does not work']],
    ['no such roster', looksAfter({ ...narrow, roster: 'wells' }), ['steward does not work']],
    ['no such column', looksAfter({ ...narrow, sees: ['lost'] }), ['steward does not work']],
    ['a broken condition', looksAfter({ where: when('lost = 1') }), ['steward does not work']],
    ['roles that nobody has', looksAfter({ ...narrow, roles: ['keen'] }), ['steward does not work']],
    ['one who hands over what they do not see', handsOver, ['steward does not work']],
    [
      'one who keeps what they do not see',
      { id: 'k', role: 'lead', does: 'keep a table', table: 'wells' },
      ['steward does not work'],
    ],
  ])('%s', (_what, steward, expected) => {
    expect(kinds(steward)).toEqual(expected);
  });

  it('a steward who can make stewards, one who hands over by a column that leads elsewhere, and one who may', () => {
    const own = looksAfter({ ...narrow, role: 'plain', changes: ['email'] });
    expect(kinds(own)).toEqual(['steward of stewards']);
    expect(kinds({ ...own, changes: undefined } as unknown as Steward)).toEqual([]);
    expect(kinds(handsOver, sees)).toEqual([]);
    expect(kinds({ ...handsOver, tables: [{ table: 'wells', column: 'code' }] }, sees)).toEqual([
      'steward does not work',
    ]);
  });
});

describe('what a steward may do there', () => {
  const north = when("parish = 'North'");
  const active = when("state = 'active'");
  const wells = findTable(wellsCatalogue, 'wells')!;
  const visits = findTable(wellsCatalogue, 'visits')!;
  const see = { where: active, columns: ['code'] };
  const handsOver: HandsOver = {
    id: 'some',
    role: 'lead',
    does: 'hand over',
    roster: 'owners',
    where: north,
    tables: [
      { table: 'visits', column: 'well_id' },
      { table: 'wells', column: 'owner_id', where: when('depth_m > 9') },
    ],
  };
  const grantOf = (steward: Steward, table = wells, over: object = {}) => {
    const definition = { ...definitionWith([], 'plain', steward), access: { wells: { lead: { see } } }, ...over };
    definition.rosters = [{ ...definition.rosters[0]!, table: 'samplers' }, ...definition.rosters];
    return stewardGrant(definition, wellsCatalogue, table, steward);
  };
  const texts = (grant: Grant | null) => ({
    see: grant?.see,
    edit: grant?.edit && {
      ...grant.edit,
      where: printCondition(grant.edit.where as Condition),
      keepIn: printCondition(grant.edit.keepIn as Condition),
    },
  });
  const somebodys = 'owner_id IS NOT NULL';

  it('handing over: from one of the slice to one of it who counts, among what the role sees', () => {
    expect(texts(grantOf(handsOver))).toEqual({
      see: { where: active, columns: ['owner_id'] },
      edit: {
        where: "state = 'active' AND depth_m > 9 AND owner.parish = 'North'",
        columns: ['owner_id'],
        keepIn: `state = 'active' AND ${somebodys} AND owner.parish = 'North'`,
      },
    });
    const all = { ...handsOver, where: undefined, tables: [{ table: 'wells', column: 'owner_id' }] } as HandsOver;
    expect(
      texts(grantOf(all, wells, { access: { wells: { lead: { see: { ...see, where: 'every row' } } } } })).edit,
    ).toEqual({
      where: somebodys,
      columns: ['owner_id'],
      keepIn: somebodys,
    });
    const rosters = [{ ...definitionWith([], 'plain', handsOver).rosters[0]!, where: when("phone <> ''") }];
    expect(texts(grantOf(handsOver, wells, { rosters })).edit!.keepIn).toBe(
      `state = 'active' AND ${somebodys} AND owner.parish = 'North' AND owner.phone <> ''`,
    );
  });

  it.each<[string, Steward, object?]>([
    ['of a table that isn’t named', { ...handsOver, tables: handsOver.tables.slice(0, 1) }],
    ['by a column that leads to others', { ...handsOver, tables: [{ table: 'wells', column: 'sampler_id' }] }],
    ['by a column that leads nowhere', { ...handsOver, tables: [{ table: 'wells', column: 'code' }] }],
    ['of a roster that is gone', { ...handsOver, roster: 'visits' }],
    ['of what the role does not see', handsOver, { access: {} }],
    ['of what the role only writes', handsOver, { access: { wells: { lead: { create: { columns: [] } } } } }],
  ])('handing over is not there: %s', (_name, steward, over) => {
    expect(grantOf(steward, wells, over)).toBeNull();
  });

  it('handing over needs a roster with one key, which the relation leads to', () => {
    const keyed = (key: string[]) => {
      const tables = wellsCatalogue.tables.map((table) => (table.name === 'owners' ? { ...table, key } : table));
      const definition = { ...definitionWith([], 'plain', handsOver), access: { wells: { lead: { see } } } };
      return stewardGrant(definition, { ...wellsCatalogue, tables }, wells, handsOver) !== null;
    };
    expect([keyed(['id']), keyed(['id', 'name']), keyed(['name']), keyed([])]).toEqual([true, false, false, false]);
  });

  it('keeping a table takes out what the role sees of it, and of no other', () => {
    const keeps: Steward = { id: 'some', role: 'lead', does: 'keep a table', table: 'wells' };
    expect(grantOf(keeps)).toEqual({ see, export: { where: 'as seen' } });
    expect([grantOf(keeps, visits), grantOf({ ...keeps, table: 'visits' })]).toEqual([null, null]);
    expect(grantOf(keeps, wells, { access: { wells: { lead: { create: { columns: [] } } } } })).toBeNull();
    expect(grantOf({ ...keeps, table: 'visits' }, visits)).toBeNull();
  });

  it('looking after: what is seen, added and changed of them, and nothing of other tables', () => {
    const whole = looksAfter({ sees: ['parish'], adds: ['name', 'email'], changes: ['phone'] });
    const grant = grantOf(whole, owners);
    const slice = grant!.see!.where;
    expect(grant).toEqual({
      see: { where: slice, columns: ['name', 'email', 'parish', 'phone'] },
      create: { columns: ['name', 'email'], keepIn: slice },
      edit: { where: 'as seen', columns: ['phone'], keepIn: slice },
    });
    expect(grantOf(looksAfter(), owners)).toEqual({ see: { where: slice, columns: ['name', 'email'] } });
    expect(grantOf(whole, wells)).toBeNull();
  });
});
