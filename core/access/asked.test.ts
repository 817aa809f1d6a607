import { describe, expect, it } from 'vitest';
import { person, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { askCatalogue } from './ask';
import { explain, neededToExplain } from './explain';
import { contextOf } from './person';
import { viewOf } from './view';
import { see, wells } from './access.fixture';

describe('what may be asked', () => {
  it('has neither hidden columns, nor masked ones without order, nor relations by a hidden column', () => {
    const definition = wellsDefinition(
      {
        wells: { owner: see('every row', ['code', 'note', 'owner_id']) },
        owners: { owner: see('every row', ['name', 'birth_date', 'phone']) },
      },
      [
        {
          id: 'a',
          table: 'wells',
          column: 'note',
          mask: { style: 'keep last', count: 3 },
          to: 'everyone',
          exceptRoles: [],
        },
        { id: 'b', table: 'owners', column: 'birth_date', mask: { style: 'year' }, to: 'everyone', exceptRoles: [] },
      ],
    );
    const asking = askCatalogue(definition, wellsCatalogue, person(['owner']));
    const names = (table: string) =>
      asking.tables.find((each) => each.name === table)!.columns.map((column) => `${column.name}: ${column.type}`);
    expect(names('wells')).toEqual(['code: text', 'owner_id: whole number']);
    expect(names('owners')).toEqual(['name: text', 'phone: text', 'birth_date: whole number']);
    expect(asking.tables.find((each) => each.name === 'wells')!.relations.map((relation) => relation.name)).toEqual([
      'owner',
    ]);
    expect(names('samplers')).toEqual([]);
  });
});

describe('why', () => {
  it('names roles, values and the mask, and says the same as the view', () => {
    const definition = wellsDefinition(
      {
        wells: {
          owner: see(when('owner_id = :member.owners.id'), ['code', 'note']),
          sampler: see('every row', ['code', 'note']),
        },
      },
      [{ id: 'note', table: 'wells', column: 'note', mask: { style: 'all' }, to: 'everyone', exceptRoles: ['owner'] }],
    );
    const someone = person(['owner', 'sampler', 'desk'], { owners: { id: 17 } });
    const view = viewOf(definition, wellsCatalogue, wells, someone);
    const context = contextOf(someone, new Date('2026-11-23T23:30:00Z'), 'Europe/London');
    expect(neededToExplain(view)).toEqual({ paths: [['owner_id']], exists: [] });
    const why = (owner: number) =>
      explain(definition, wellsCatalogue, view, someone, { value: () => owner, exists: () => false }, context, 'note')
        .explanation;
    expect(why(17).cell).toEqual({ level: 'shown' });
    expect(why(18).cell).toEqual({ level: 'masked', mask: { style: 'all' } });
    expect(why(18).roles.map((role) => [role.role, role.granted, role.see?.holds])).toEqual([
      ['owner', true, false],
      ['sampler', true, true],
      ['desk', false, undefined],
    ]);
    expect(why(18).roles[0]!.see!.parts![0]!.trace.values).toEqual([18, 17]);
    expect(why(18).roles.map((role) => role.masks.map((mask) => mask.outcome))).toEqual([
      ['role excepted'],
      ['decides'],
      ['decides'],
    ]);
  });

  it("reads today in the portal's time zone", () => {
    const at = (zone: string) => contextOf(person([]), new Date('2026-11-23T23:30:00Z'), zone);
    expect([
      at('Europe/London').today,
      at('Europe/Berlin').today,
      at('America/Lima').today,
      at('Europe/Berlin').now,
    ]).toEqual(['2026-11-23', '2026-11-24', '2026-11-23', '2026-11-23 23:30:00']);
  });
});
