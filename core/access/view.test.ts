import { describe, expect, it } from 'vitest';
import { emptyDefinition, type Grant, type PortalDefinition } from '../definition/definition';
import { withCeilings, type Ceiling } from '../definition/ceilings';
import type { Catalogue } from '../table/catalogue';
import { person, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import type { Lens } from './lens';
import { builderPerson } from './person';
import { tableRights } from './rights';
import type { Rows } from './rows';
import { exportView, historyView, neededColumns, ownView, stewardView, viewOf, visibleColumns } from './view';

/** What access.md says of ceilings, of files, of history and of whoever is kept from personal data, on one table. */
const all: Grant = {
  see: { where: when('depth_m > 1'), columns: ['code', 'treatment', 'state', 'note'] },
  create: { columns: ['code', 'state'] },
  edit: { where: 'as seen', columns: ['code', 'state'] },
  delete: { where: when("state = 'closed'") },
  export: { where: when("state = 'active'") },
  history: true,
};
const definition: PortalDefinition = {
  ...wellsDefinition({ wells: { owner: all, sampler: { see: { where: 'every row', columns: ['code'] } } } }),
  tables: { wells: { history: { days: 30 } } },
};
const under = (ceiling: Ceiling): Catalogue => withCeilings(wellsCatalogue, { wells: ceiling });
const wells = (catalogue: Catalogue) => catalogue.tables.find(({ name }) => name === 'wells')!;
const seenBy = (who: Parameters<typeof viewOf>[3], ceiling: Ceiling = {}, of = definition) =>
  viewOf(of, under(ceiling), wells(under(ceiling)), who);
const owner = person(['owner']);
const texts = (rows: Rows) => (rows === 'no row' ? rows : rows.map(({ where }) => where));

describe('a ceiling', () => {
  const operations = ['create', 'edit', 'delete', 'export'] as const;
  const may = (lens: Lens) => ({
    create: lens.create !== null,
    edit: lens.edit !== null,
    delete: lens.remove !== null,
    export: lens.export !== null,
  });
  const everything = { create: true, edit: true, delete: true, export: true };

  it.each([
    ['a member', owner],
    ['the builder', builderPerson],
  ])('takes from %s what it takes, and leaves the rest', (_who, who) => {
    expect(may(seenBy(who).lenses[0]!)).toEqual(everything);
    for (const operation of operations) {
      const lens = seenBy(who, { [operation]: false }).lenses[0]!;
      expect(may(lens)).toEqual({ ...everything, [operation]: false });
      expect(lens.rows).not.toBe('no row');
    }
  });

  it('narrows the rows of each operation, beside what was there', () => {
    const [where, left] = [when('depth_m < 9'), when('depth_m > 1')];
    const lens = seenBy(owner, { where }).lenses[0]!;
    expect(texts(lens.rows)).toEqual([left, where]);
    expect(texts(lens.edit!.rows)).toEqual([left, where]);
    expect(texts(lens.remove!)).toEqual([when("state = 'closed'"), where]);
    const builder = seenBy(builderPerson, { where }).lenses[0]!;
    for (const rows of [builder.rows, builder.create!.keepIn, builder.edit!.rows, builder.edit!.keepIn])
      expect(texts(rows)).toEqual([where]);
    expect([texts(builder.remove!), texts(builder.export!)]).toEqual([[where], [where]]);
  });

  it('lets nobody in where it can’t be asked of the table any more', () => {
    const gone = { where: when('gone = 1') };
    const [builder] = seenBy(builderPerson, gone).lenses;
    expect([builder!.rows, builder!.remove, builder!.edit!.rows]).toEqual(['no row', 'no row', 'no row']);
    const member = seenBy(owner, gone);
    expect([tableRights(member).sees, visibleColumns(member), exportView(member).lenses]).toEqual([false, [], []]);
  });

  it('hides a column, or leaves it to be read', () => {
    const hidden = seenBy(builderPerson, { columns: { note: 'nothing' } });
    expect(visibleColumns(hidden)).not.toContain('note');
    expect(hidden.lenses[0]!.edit!.columns.has('note')).toBe(false);
    expect(visibleColumns(seenBy(owner, { columns: { note: 'nothing' } }))).toEqual(['code', 'state', 'treatment']);
  });
});

describe('the builder', () => {
  it('writes every column but those that the database fills, and gives a key to a new record alone', () => {
    const { create, edit, columns, history, stamps, moves } = seenBy(builderPerson).lenses[0]!;
    const names = wells(wellsCatalogue).columns.map(({ name }) => name);
    expect([...columns.keys()]).toEqual(names);
    expect([...columns.values()].every(({ level }) => level === 'shown')).toBe(true);
    expect([...create!.columns]).toEqual(names);
    expect([...edit!.columns]).toEqual(names.filter((name) => name !== 'id'));
    expect([history, stamps, moves]).toEqual([true, [], null]);
    const without = emptyDefinition({ slug: 'w', name: 'W', timeZone: 'UTC', colour: '#1f5f85' }, 'wells');
    expect(seenBy(builderPerson, {}, without).lenses[0]!.history).toBe(false);
  });
});

describe('a view narrowed', () => {
  const both = seenBy(person(['owner', 'sampler', 'owner']));

  it('has a lens of each role, once', () => {
    expect(both.lenses.map(({ role }) => role)).toEqual(['owner', 'sampler']);
  });

  it('for a file has the rows seen that may be taken out, of those who may, however often it is narrowed', () => {
    const out = exportView(both);
    expect(out.lenses.map(({ role, rows }) => [role, texts(rows)])).toEqual([
      ['owner', [when('depth_m > 1'), when("state = 'active'")]],
    ]);
    expect(exportView(out).lenses[0]!.rows).toEqual(out.lenses[0]!.rows);
    expect([tableRights(both).exports, tableRights(seenBy(person(['sampler']))).exports]).toEqual([true, false]);
  });

  it('for history has those who read it, where it is kept', () => {
    expect(historyView(both).lenses.map(({ role }) => role)).toEqual(['owner']);
    expect(tableRights(both).history).toBe(true);
    const unkept = { ...definition, tables: {} };
    expect(historyView(seenBy(person(['owner', 'sampler']), {}, unkept)).lenses).toEqual([]);
  });

  it('to one’s own has what is there by such a rule, and to a steward what is there by what they look after', () => {
    const deep = when('depth_m > 1');
    expect(ownView(both, (where) => JSON.stringify(where) === JSON.stringify(deep)).lenses).toEqual([both.lenses[0]]);
    expect(ownView(both, () => false).lenses).toEqual([]);
    expect(stewardView(both, 'any').lenses).toEqual([]);
    const [one, other] = both.lenses as [Lens, Lens];
    const looked = { ...both, lenses: [one, { ...other, steward: 'any' }] };
    expect(stewardView(looked, 'any').lenses.map(({ role }) => role)).toEqual(['sampler']);
  });
});

describe('whoever is kept from personal data', () => {
  const dataClass = 'identity';
  const columns = { code: { dataClass }, treatment: { dataClass }, note: { dataClass } } as const;
  const classed: PortalDefinition = {
    ...definition,
    tables: { wells: { columns } },
    masks: [{ id: 'm', table: 'wells', column: 'note', mask: { style: 'all' }, to: 'everyone', exceptRoles: [] }],
  };
  const kept = seenBy({ ...owner, withoutSight: true }, {}, classed).lenses[0]!;

  it('is shown stand-ins, or nothing where there can be none, and the rest as it is', () => {
    expect(Object.fromEntries(kept.columns)).toEqual({
      code: { level: 'masked', mask: { style: 'stand-in' } },
      treatment: { level: 'masked', mask: { style: 'all' } },
      state: { level: 'shown' },
      note: { level: 'masked', mask: { style: 'all' } },
    });
    const { columns: _kept, ...rest } = kept;
    const { columns: _shown, ...asBefore } = seenBy(owner, {}, classed).lenses[0]!;
    expect(rest).toEqual(asBefore);
  });
});

it('a new record needs what is neither empty nor filled by itself', () => {
  const column = (name: string, more: object) => ({
    ...wells(wellsCatalogue).columns[1]!,
    name,
    nullable: false,
    ...more,
  });
  const columns = [
    column('needed', {}),
    column('may be empty', { nullable: true }),
    column('has one', { hasDefault: true }),
    column('is counted', { automatic: true }),
  ];
  expect(neededColumns({ ...wells(wellsCatalogue), columns })).toEqual(['needed']);
});
