import type { Ceiling } from '../definition/ceilings';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { person, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { MemoryRecords } from '../../test/memory-records';
import { makeScenario, today, withColumns } from '../../test/judge/scenario';
import { evaluate } from '../condition/evaluate';
import type { Grant, PortalDefinition } from '../definition/definition';
import type { Row } from '../table/value';
import type { Mask } from '../mask/mask';
import { see, wells } from './access.fixture';
import { explain } from './explain';
import { lensOf } from './lens';
import { cellOf, rightsOf, tableRights } from './rights';
import { contextOf, servicePerson, visitorPerson } from './person';
import type { Rows } from './rows';
import { viewOf, visibleColumns } from './view';

describe('the classic leak', () => {
  // Sampler of some wells, owner of one: rows united and columns united apart would show every owner's note.
  const definition = wellsDefinition({
    wells: {
      owner: see(when('owner_id = :member.owners.id'), ['code', 'note']),
      sampler: see(when('sampler_id = :member.samplers.id'), ['code', 'state']),
    },
  });
  const view = viewOf(definition, wellsCatalogue, wells, person(['owner', 'sampler']));

  it('opens a cell only through a lens that has the row', () => {
    expect(cellOf(view, 'note', [false, true])).toEqual({ level: 'hidden' });
    expect(cellOf(view, 'note', [true, false])).toEqual({ level: 'shown' });
    expect(cellOf(view, 'code', [false, true])).toEqual({ level: 'shown' });
    expect(cellOf(view, 'state', [true, true])).toEqual({ level: 'shown' });
    expect(visibleColumns(view)).toEqual(['code', 'state', 'note']);
  });
});

describe('union, cell by cell', () => {
  const roles = ['owner', 'sampler', 'desk'];
  const columns = ['code', 'note'];
  const masks: Mask[] = [{ style: 'all' }, { style: 'keep last', count: 2 }, { style: 'keep last', count: 4 }];
  const anyGrants = fc.array(fc.record({ columns: fc.subarray(columns), holds: fc.boolean() }), {
    minLength: 3,
    maxLength: 3,
  });
  const anyMasks = fc.array(
    fc.record({
      column: fc.constantFrom(...columns),
      mask: fc.constantFrom(...masks),
      to: fc.oneof(fc.constant('everyone' as const), fc.subarray(roles, { minLength: 1 })),
      exceptRoles: fc.subarray(roles),
    }),
    { maxLength: 4 },
  );

  it('is as open as the most open lens that has the row, said plainly', () => {
    fc.assert(
      fc.property(anyGrants, anyMasks, (grants, rules) => {
        const masked = rules.map((rule, i) => ({ ...rule, id: `m${i}`, table: 'wells' }));
        const definition = wellsDefinition(
          { wells: Object.fromEntries(grants.map((grant, i) => [roles[i]!, see('every row', grant.columns)])) },
          masked,
        );
        const view = viewOf(definition, wellsCatalogue, wells, person(roles));
        for (const column of columns) {
          // The plain reading: characters shown; 99 for the whole value, -1 for nothing at all, 0 for a full mask.
          const shows = roles.map((role, i) => {
            if (!grants[i]!.holds || !grants[i]!.columns.includes(column)) return -1;
            const applying = masked.filter(
              (rule) =>
                rule.column === column &&
                (rule.to === 'everyone' || rule.to.includes(role)) &&
                !rule.exceptRoles.includes(role),
            );
            return Math.min(99, ...applying.map(({ mask }) => (mask.style === 'keep last' ? mask.count : 0)));
          });
          const cell = cellOf(
            view,
            column,
            grants.map((grant) => grant.holds),
          );
          const shown =
            cell.level === 'hidden'
              ? -1
              : cell.level === 'shown'
                ? 99
                : cell.mask.style === 'keep last'
                  ? cell.mask.count
                  : 0;
          expect(shown).toBe(Math.max(...shows));
        }
      }),
      { numRuns: 1000 },
    );
  });
});

describe('what must fail closed', () => {
  const grants = {
    wells: {
      owner: {
        ...see(when('owner_id = :member.owners.id'), ['code', 'gone']),
        edit: { where: 'as seen' as const, columns: ['code', 'id'] },
      },
    },
  };

  it("lets nobody in by a filter that the table can't answer", () => {
    const broken = wellsDefinition({ wells: { owner: see(when('vanished = 1'), ['code']) } });
    expect(viewOf(broken, wellsCatalogue, wells, person(['owner'])).lenses).toEqual([]);
  });

  it('knows no role, table or column that is not there', () => {
    const definition = wellsDefinition(grants);
    expect(lensOf(definition, wellsCatalogue, wells, 'stranger')).toBeNull();
    expect(lensOf(definition, wellsCatalogue, wells, 'constructor')).toBeNull();
    expect(lensOf(definition, wellsCatalogue, wellsCatalogue.tables[0]!, 'owner')).toBeNull();
    expect([...lensOf(definition, wellsCatalogue, wells, 'owner')!.columns.keys()]).toEqual(['code']);
    expect(viewOf(definition, wellsCatalogue, wells, person([])).lenses).toEqual([]);
  });

  it('never lets a key be edited, nor what is masked or hidden, nor where only the row is in view', () => {
    const definition = wellsDefinition(
      {
        wells: {
          owner: {
            ...see('every row', ['code', 'note', 'state']),
            edit: { where: when("state = 'active'"), columns: ['id', 'code', 'note', 'depth_m'] },
          },
        },
      },
      [{ id: 'm', table: 'wells', column: 'note', mask: { style: 'all' }, to: 'everyone', exceptRoles: [] }],
    );
    const view = viewOf(definition, wellsCatalogue, wells, person(['owner']));
    const editable = (seen: boolean, edited: boolean) => [
      ...rightsOf(view, { seen: [seen], edited: [edited] }).editable.shown,
    ];
    expect(editable(true, true)).toEqual(['code']);
    expect(editable(true, false)).toEqual([]);
    expect(editable(false, true)).toEqual([]);
    expect(tableRights(view).edit.keepIn).toEqual([
      [{ origin: { kind: 'keep-in', of: 'edit' }, where: when("state = 'active'") }],
    ]);
  });

  it('hides everything by a mask that no longer fits the column', () => {
    const definition = wellsDefinition({ wells: { owner: see('every row', ['depth_m']) } }, [
      { id: 'm', table: 'wells', column: 'depth_m', mask: { style: 'year' }, to: 'everyone', exceptRoles: [] },
    ]);
    expect(cellOf(viewOf(definition, wellsCatalogue, wells, person(['owner'])), 'depth_m', [true])).toEqual({
      level: 'masked',
      mask: { style: 'all' },
    });
  });
});

describe('fences, ceilings and lifecycles that are broken', () => {
  const open: Grant = {
    ...see('every row', ['code', 'note']),
    edit: { where: 'every row', columns: ['note', 'state'] },
    create: { columns: ['code'] },
    delete: { where: 'every row' },
  };
  const definition = (more: Partial<PortalDefinition>): PortalDefinition => ({
    ...wellsDefinition({ wells: { owner: open, desk: open } }),
    ...more,
  });
  const lens = (changed: PortalDefinition, role: string, table = wells) => lensOf(changed, wellsCatalogue, table, role);

  it('close the table to all who are not exempt', () => {
    const fenced = definition({
      fences: [{ id: 'gone', table: 'wells', where: when('vanished = 1'), exceptRoles: ['desk'] }],
    });
    expect(lens(fenced, 'owner')).toBeNull();
    expect(lens(fenced, 'desk')).toMatchObject({ rows: [], remove: [] });
    expect(lens(definition({}), 'owner', { ...wells, ceiling: { where: when('vanished = 1') } as Ceiling })).toBeNull();
  });

  it('leave out single rights only', () => {
    const state = definition({
      lifecycles: [
        {
          table: 'wells',
          column: 'state',
          moves: [
            {
              id: 'a',
              name: 'A',
              from: ['active'],
              to: 'closed',
              roles: ['owner'],
              where: when('vanished = 1'),
              needs: [],
            },
            { id: 'b', name: 'B', from: ['closed'], to: 'active', roles: ['owner'], needs: [] },
          ],
        },
      ],
    });
    expect([...lens(state, 'owner')!.edit!.columns]).toEqual(['note']);
    expect(lens(state, 'owner')!.moves!.moves.map((move) => move.id)).toEqual(['b']);
    expect(lens(state, 'desk')!.moves).toBeNull();
    const broken = structuredClone(definition({}));
    broken.access.wells!.owner!.delete = { where: when('vanished = 1') };
    broken.access.wells!.owner!.create!.keepIn = when('vanished = 1');
    expect(lens(broken, 'owner')).toMatchObject({ rows: [], remove: null, create: null });
    const covered = lens(definition({}), 'owner', {
      ...wells,
      ceiling: { delete: false, create: false, columns: { note: 'read', code: 'nothing' } },
    })!;
    expect([covered.remove, covered.create, [...covered.columns.keys()], [...covered.edit!.columns]]).toEqual([
      null,
      null,
      ['note'],
      ['state'],
    ]);
  });

  it('mask by data class, and not where a member is excepted', () => {
    const classed = definition({
      tables: { wells: { columns: { note: { dataClass: 'contact' }, code: { dataClass: 'location' } } } },
      masks: [
        {
          id: 'contact',
          dataClass: 'contact',
          mask: { style: 'all' },
          to: 'everyone',
          exceptRoles: [],
          exceptMembers: ['a@example.org'],
        },
      ],
    });
    const level = (email: string) =>
      lensOf(classed, wellsCatalogue, wells, 'owner', { email })!.columns.get('note')!.level;
    expect([
      level('a@example.org'),
      level('b@example.org'),
      lens(classed, 'owner')!.columns.get('code')!.level,
    ]).toEqual(['shown', 'masked', 'shown']);
  });

  it('give visitors and services their own roles alone', () => {
    const doors = definition({
      roles: [
        { id: 'owner', name: 'O' },
        { id: 'anyone', name: 'A', for: 'visitors' },
        { id: 'machine', name: 'M', for: 'services' },
      ],
    });
    expect([visitorPerson(doors).roles, servicePerson(doors, ['machine', 'owner', 'unknown']).roles]).toEqual([
      ['anyone'],
      ['machine'],
    ]);
  });
});

describe('decisions in memory', () => {
  it('are those of the view, for random portals, persons and records', () => {
    let compared = 0;
    for (let seed = 500; seed < 530; seed++) {
      const scenario = makeScenario(seed);
      const definition = withColumns(scenario);
      const memory = new MemoryRecords(scenario.catalogue, scenario.rows);
      for (const someone of scenario.persons) {
        for (const table of scenario.catalogue.tables.filter((each) => each.name !== 'people')) {
          const context = contextOf(someone, new Date(`${today}T12:00:00Z`), 'UTC');
          const view = viewOf(definition, scenario.catalogue, table, someone);
          const holds = (rows: Rows | null | undefined, row: Row) =>
            rows !== null &&
            rows !== undefined &&
            rows !== 'no row' &&
            rows.every(
              (part) =>
                evaluate(
                  part.where,
                  { catalogue: scenario.catalogue, table, member: true },
                  memory.record(table.name, row),
                  context,
                ) === true,
            );
          for (const row of scenario.rows[table.name]!) {
            const seen = view.lenses.map((lens) => holds(lens.rows, row));
            const edited = view.lenses.map((lens) => holds(lens.edit?.rows, row));
            const rights = rightsOf(view, { seen, edited });
            const why = (name: string) =>
              explain(definition, scenario.catalogue, view, someone, memory.record(table.name, row), context, name)
                .explanation;
            // As access.md has it: through a role whose edit filter holds, where it is shown or may be replaced unseen.
            const edits = (name: string) =>
              seen.includes(true) &&
              view.lenses.some(
                (lens, i) =>
                  edited[i] &&
                  lens.edit!.columns.has(name) &&
                  (cellOf(view, name, seen).level === 'shown' || lens.edit!.unseen.has(name)),
              );
            expect([rights.inView, why(table.columns[0]!.name).inView]).toEqual([
              seen.includes(true),
              seen.includes(true),
            ]);
            for (const { name } of table.columns) {
              const expected = [cellOf(view, name, seen), edits(name)];
              expect([rights.cell(name), rights.edits(name)]).toEqual(expected);
              expect([why(name).cell, why(name).editable]).toEqual(expected);
              compared++;
            }
          }
        }
      }
    }
    expect(compared).toBeGreaterThan(3000);
  });
});

describe('more roles than a number has bits', () => {
  it('are each told apart: the fortieth opens nothing of the first', () => {
    const ids = Array.from({ length: 70 }, (_, i) => `r${i}`);
    const definition = wellsDefinition({
      wells: Object.fromEntries(ids.map((id, i) => [id, see('every row', [i % 2 === 0 ? 'note' : 'code'])])),
    });
    definition.roles = ids.map((id) => ({ id, name: id }));
    const view = viewOf(definition, wellsCatalogue, wells, person(ids));
    for (const [place] of ids.entries()) {
      const seen = ids.map((_, i) => i === place);
      const rights = rightsOf(view, { seen, edited: seen });
      expect([place, rights.cell('note').level, rights.cell('code').level]).toEqual([
        place,
        place % 2 === 0 ? 'shown' : 'hidden',
        place % 2 === 0 ? 'hidden' : 'shown',
      ]);
    }
  });
});
