import { findFaults, readDefinition } from '../../../sections/definition';
import { describe, expect, it } from 'vitest';
import { lensOf } from '../../../core/access/lens';
import { printCondition } from '../../../core/condition/print';
import { checkCondition } from '../../../core/condition/check';
import { wellsCatalogue, wellsDefinition, when } from '../../../test/wells';
import type { Level } from '../../ui/Stones';
import { likelyRows, ownRows } from '../../../core/access/own-rows';
import { columnChoices, factChoices, firstCondition } from './choices';
import { completions } from './completions';
import { gridRows } from './grid-rows';
import { copyRules, levelOf, setLevel, setMask, setStones } from './set-level';

const wells = wellsCatalogue.tables[1]!;
const levels: Level[] = ['hidden', 'masked', 'shown', 'editable'];
const start = () =>
  wellsDefinition(
    {
      wells: {
        owner: { see: { where: 'every row', columns: ['code'] } },
        sampler: {
          see: { where: 'every row', columns: ['code', 'note'] },
          edit: { where: 'as seen', columns: ['note'] },
        },
      },
    },
    [
      {
        id: 'wells-note',
        table: 'wells',
        column: 'note',
        mask: { style: 'keep last', count: 2 },
        to: 'everyone',
        exceptRoles: ['sampler'],
      },
    ],
  );

describe('setting a stone', () => {
  it('gives that level, from every level to every level, for that role alone, and a sound definition', () => {
    for (const column of ['note', 'state', 'code']) {
      for (const from of levels) {
        for (const to of levels) {
          const draft = start();
          setLevel(draft, wells, 'owner', column, from);
          expect([column, levelOf(draft, wells, 'owner', column)]).toEqual([column, from]);
          const others = wells.columns.map((each) => levelOf(draft, wells, 'sampler', each.name));
          setLevel(draft, wells, 'owner', column, to);
          expect([column, from, levelOf(draft, wells, 'owner', column)]).toEqual([column, from, to]);
          expect(wells.columns.map((each) => levelOf(draft, wells, 'sampler', each.name))).toEqual(others);
          expect(() => readDefinition(JSON.parse(JSON.stringify(draft)))).not.toThrow();
          expect(
            findFaults(draft, wellsCatalogue, []).filter((finding) => finding.kind === 'masked but editable'),
          ).toEqual([]);
        }
      }
    }
  });

  it('masks a column as another of its data class is masked, where that takes its type', () => {
    const draft = start();
    draft.tables = {
      wells: {
        columns: {
          note: { dataClass: 'location' },
          code: { dataClass: 'location' },
          depth_m: { dataClass: 'location' },
        },
      },
    };
    for (const column of ['code', 'depth_m', 'state']) setLevel(draft, wells, 'owner', column, 'masked');
    expect(draft.masks.flatMap((rule) => ('column' in rule ? [[rule.column, rule.mask]] : []))).toEqual([
      ['note', { style: 'keep last', count: 2 }],
      ['code', { style: 'keep last', count: 2 }],
      ['depth_m', { style: 'all' }],
      ['state', { style: 'all' }],
    ]);
  });

  it('says what the lens does', () => {
    const draft = start();
    for (const level of levels) {
      setLevel(draft, wells, 'owner', 'state', level);
      const lens = lensOf(draft, wellsCatalogue, wells, 'owner')!;
      expect(lens.columns.get('state')?.level ?? 'hidden').toBe(level === 'editable' ? 'shown' : level);
      expect(lens.edit?.columns.has('state') ?? false).toBe(level === 'editable');
    }
  });

  it('changes the mask that applies to the role and no other', () => {
    const draft = start();
    setLevel(draft, wells, 'sampler', 'state', 'masked');
    setMask(draft, 'wells', 'state', 'sampler', { style: 'all' });
    setLevel(draft, wells, 'owner', 'note', 'masked');
    setMask(draft, 'wells', 'note', 'owner', { style: 'all' });
    expect(
      draft.masks.map((rule) => [rule.id, 'column' in rule && rule.column, rule.mask.style, rule.to, rule.exceptRoles]),
    ).toEqual([
      ['wells-note', 'note', 'all', 'everyone', ['sampler']],
      ['wells-state', 'state', 'all', ['sampler'], []],
    ]);
    setLevel(draft, wells, 'sampler', 'state', 'shown');
    expect(draft.masks.map((rule) => rule.id)).toEqual(['wells-note']);
  });
});

describe('choices', () => {
  it("find a role's own rows by the keys", () => {
    const draft = wellsDefinition({});
    const found = (table: number, role: string) =>
      ownRows(draft, wellsCatalogue, wellsCatalogue.tables[table]!, role).map((each) => printCondition(each));
    expect(found(1, 'owner')).toEqual(['owner_id = :member.owners.id']);
    expect(found(1, 'sampler')).toEqual(['sampler_id = :member.samplers.id']);
    expect(found(0, 'owner')).toEqual(['id = :member.owners.id']);
    expect(found(0, 'sampler')).toEqual([]);
    expect(found(1, 'desk')).toEqual([]);
    // Further along the relations: a visit is theirs by its well.
    expect(found(3, 'owner')).toEqual(['well.owner_id = :member.owners.id']);
    expect(found(3, 'sampler')).toEqual(['well.sampler_id = :member.samplers.id']);
    // And by the organisation that the roster names; another relation in common is offered alone.
    draft.rosters = [{ table: 'wells', name: 'code', email: 'note', role: 'desk', organisation: 'owner_id' }];
    expect(found(0, 'desk')).toEqual(['id = :member.wells.owner_id']);
    expect(found(3, 'desk')).toEqual(['well_id = :member.wells.id', 'well.owner_id = :member.wells.owner_id']);
    expect(
      likelyRows(draft, wellsCatalogue, wellsCatalogue.tables[3]!, 'desk').map((each) => printCondition(each)),
    ).toEqual(['well.sampler_id = :member.wells.sampler_id']);
  });

  it('offer what may be meant: records that are theirs, and columns called like one of their roster row', () => {
    const likely = (table: number, role: string, draft = wellsDefinition({})) =>
      likelyRows(draft, wellsCatalogue, wellsCatalogue.tables[table]!, role).map((each) => printCondition(each));
    expect(likely(0, 'sampler')).toEqual(['EXISTS (wells WHERE wells.sampler_id = :member.samplers.id)']);
    expect(likely(2, 'owner')).toEqual(['EXISTS (wells WHERE wells.owner_id = :member.owners.id)']);
    expect(likely(0, 'owner')).toEqual([]);
    const district = structuredClone(wellsCatalogue);
    district.tables[1]!.columns.push({ ...district.tables[2]!.columns[3]! }, { ...district.tables[0]!.columns[3]! });
    const text = (role: string) =>
      likelyRows(wellsDefinition({}), district, district.tables[1]!, role).map((each) => printCondition(each));
    expect([
      text('sampler'),
      text('owner'),
      likelyRows(wellsDefinition({}), district, district.tables[3]!, 'sampler').map((each) => printCondition(each)),
    ]).toEqual([['district = :member.samplers.district'], [], ['well.district = :member.samplers.district']]);
  });

  it('offer columns through relations and begin with a condition that works', () => {
    expect(columnChoices(wellsCatalogue, wells).map((choice) => choice.path.join('.'))).toEqual(
      expect.arrayContaining(['code', 'owner.name', 'sampler.district']),
    );
    for (const table of wellsCatalogue.tables)
      expect(checkCondition(firstCondition(table), { catalogue: wellsCatalogue, table, member: true })).toEqual([]);
    expect(factChoices(wellsDefinition({}), wellsCatalogue)).toContainEqual({
      operand: { kind: 'member', fact: ['samplers', 'district'] },
      group: "the member's row in samplers",
    });
  });
});

describe('many stones at once', () => {
  const only = when('owner_id = :member.owners.id');
  it('are set where the role sees rows, or is given its own, and told where not', () => {
    const draft = start();
    const stones = ['owner', 'sampler', 'desk'].flatMap((role) =>
      ['id', 'note', 'state'].map((column) => ({ table: wells, column, role, level: 'editable' as const })),
    );
    const left = setStones(draft, stones, (_, role) => (role === 'desk' ? null : only));
    // A mask that stands stays.
    expect(left.map((stone) => `${stone.role} ${stone.column}`)).toEqual([
      'owner note',
      'desk id',
      'desk note',
      'desk state',
    ]);
    expect(
      ['owner', 'sampler', 'desk'].map((role) =>
        ['id', 'note', 'state'].map((column) => levelOf(draft, wells, role, column)),
      ),
    ).toEqual([
      ['shown', 'masked', 'editable'],
      ['shown', 'editable', 'editable'],
      ['hidden', 'hidden', 'hidden'],
    ]);
    expect(draft.access.wells!.desk).toBeUndefined();
    // A mask on the data class is not opened by a stone.
    draft.tables.wells = { columns: { state: { dataClass: 'health' } } };
    draft.masks.push({ id: 'health', dataClass: 'health', mask: { style: 'all' }, to: 'everyone', exceptRoles: [] });
    expect(
      setStones(draft, [{ table: wells, column: 'state', role: 'owner', level: 'shown' }], () => null).map(
        (stone) => stone.column,
      ),
    ).toEqual(['state']);
    expect(draft.masks.at(-1)!.exceptRoles).toEqual([]);
  });

  it('take no mask off, whatever level is laid; a press on purpose excepts the role', () => {
    const draft = start();
    draft.masks = [
      {
        id: 'wells-note',
        table: 'wells',
        column: 'note',
        mask: { style: 'keep last', count: 2 },
        to: 'everyone',
        exceptRoles: [],
      },
    ];
    for (const level of ['shown', 'editable'] as const) {
      const masks = structuredClone(draft.masks);
      const left = setStones(
        draft,
        wells.columns.map((column) => ({ table: wells, column: column.name, role: 'owner', level })),
        () => null,
      );
      expect([left.map((stone) => stone.column), levelOf(draft, wells, 'owner', 'note'), draft.masks]).toEqual([
        ['note'],
        'masked',
        masks,
      ]);
      expect(lensOf(draft, wellsCatalogue, wells, 'owner')!.edit?.columns.has('note') ?? false).toBe(false);
    }
    expect(
      setStones(draft, [{ table: wells, column: 'note', role: 'owner', level: 'shown' }], () => null, true),
    ).toEqual([]);
    expect([levelOf(draft, wells, 'owner', 'note'), draft.masks[0]!.exceptRoles]).toEqual(['shown', ['owner']]);
  });

  it("make two roles the same when one is given the other's rules, and nobody else different", () => {
    const draft = start();
    draft.fences = [{ id: 'f', table: 'wells', where: only, exceptRoles: ['owner'] }];
    draft.stamps = [
      { id: 's', table: 'wells', column: 'note', on: 'create', value: { kind: 'text', text: 'x' }, to: ['sampler'] },
    ];
    draft.lifecycles = [
      {
        table: 'wells',
        column: 'state',
        moves: [{ id: 'm', name: 'Rest', from: ['active'], to: 'resting', roles: ['sampler'], needs: [] }],
      },
    ];
    const step = { kind: 'set' as const, values: { note: { kind: 'text' as const, text: 'x' } } };
    draft.actions = [{ id: 'a', name: 'Note', table: 'wells', roles: ['sampler'], asks: [], steps: [step] }];
    const lens = (role: string, of = draft) => {
      const found = lensOf(of, wellsCatalogue, wells, role);
      return (
        found && {
          ...found,
          role: '',
          columns: [...found.columns],
          stamps: found.stamps.length,
          actions: found.actions.map(({ action }) => action.id),
          moves: found.moves && [found.moves.column, found.moves.after, found.moves.moves.map((move) => move.id)],
        }
      );
    };
    for (const [from, to] of [
      ['sampler', 'owner'],
      ['owner', 'desk'],
      ['sampler', 'desk'],
    ] as const) {
      const copy = structuredClone(draft);
      copyRules(copy, from, to, 'wells');
      expect(lens(to, copy)).toEqual(lens(from, draft));
      for (const other of ['owner', 'sampler', 'desk'].filter((each) => each !== to))
        expect(lens(other, copy)).toEqual(lens(other, draft));
      expect(() => readDefinition(JSON.parse(JSON.stringify(copy)))).not.toThrow();
    }
  });
});

describe('the lines of the grid', () => {
  const shown = (filter: Parameters<typeof gridRows>[4], open: string[] = [], roles = ['owner', 'sampler']) =>
    gridRows(start(), wellsCatalogue, roles, new Set(open), filter).map((row) =>
      row.kind === 'table' ? `${row.table.name}${row.open ? ' open' : ''}` : row.column.name,
    );
  it('are the tables, and the columns of those that are open; a filter opens what answers it', () => {
    expect(shown({ find: '', show: 'all' })).toEqual(['owners', 'wells', 'samplers', 'visits']);
    expect(shown({ find: '', show: 'all' }, ['samplers'])).toEqual([
      'owners',
      'wells',
      'samplers open',
      'id',
      'name',
      'email',
      'district',
      'visits',
    ]);
    expect(shown({ find: 'not', show: 'all' })).toEqual(['wells open', 'note']);
    expect(shown({ find: 'visit', show: 'all' })).toEqual(['visits']);
    expect(shown({ find: '', show: 'different' })).toEqual(['wells open', 'note']);
    expect(shown({ find: '', show: 'masked' }, [], ['owner'])).toEqual([]);
    expect(shown({ find: '', show: 'contact' })).toEqual([]);
  });
});

describe('completions', () => {
  const draft = wellsDefinition({});
  const offered = (text: string) => completions(text, text.length, draft, wellsCatalogue, wells).words;
  it('go on with columns, relations, facts, choices and words', () => {
    expect(offered('own')).toEqual(['owner_id', 'owner.']);
    expect(offered('owner.pa')).toEqual(['parish']);
    expect(offered("state = 'act")).toEqual(["active'"]);
    expect(offered("state IN ('active', 'r")).toEqual(["resting'"]);
    expect(offered('owner_id = :member.')).toEqual(['id', 'email', 'organisation', 'owners.', 'samplers.']);
    expect(offered('owner_id = :member.samplers.d')).toEqual(['district']);
    expect(offered('note IS NULL an')).toEqual(['AND']);
    for (const nothing of ['', 'owner_id = ', "note = 'own", 'nothing.at.all', ':member.wells.i'])
      expect([nothing, offered(nothing)]).toEqual([nothing, []]);
  });
});
