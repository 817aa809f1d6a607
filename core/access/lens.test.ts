import { describe, expect, it } from 'vitest';
import { noteMask as mask, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { withCeilings, type Ceiling } from '../definition/ceilings';
import type { Fence, Grant, Lifecycle, MaskRule, Move, PortalDefinition, Stamp } from '../definition/definition';
import type { Mask } from '../mask/mask';
import { findTable, type Catalogue, type Table } from '../table/catalogue';
import { lensesOf, lensOf, moreOpen, strictestMask, type Openness } from './lens';
import type { PartOrigin, Rows } from './rows';

/** What a lens holds, whole: each part of a grant with all that binds it, and where it comes from. */
const active = when("state = 'active'");
const deep = when('depth_m > 9');
const noted = when("note = 'x'");
const broken = when('gone = 1');
const grant: Grant = {
  see: { where: active, columns: ['id', 'code', 'note', 'gone'] },
  create: { columns: ['id', 'code', 'state', 'depth_m'] },
  edit: {
    where: 'as seen',
    columns: ['id', 'code', 'note', 'state', 'gone'],
    unseen: ['note', 'owner_id', 'id'],
  },
  delete: { where: deep },
  export: { where: 'as seen' },
  comments: { forAll: ['write'], earlier: true },
  files: { amongUs: [] },
  history: true,
};
const move = (id: string, more: Partial<Move> = {}): Move => ({
  id,
  name: id,
  from: ['active'],
  to: 'closed',
  roles: ['owner', 'sampler'],
  needs: [],
  ...more,
});
const lifecycle: Lifecycle = {
  table: 'wells',
  column: 'state',
  moves: [
    move('close'),
    move('rest', { where: deep }),
    move('lose', { where: broken }),
    move('not theirs', { roles: ['sampler'] }),
  ],
};
const stamp = (id: string, more: Partial<Stamp> = {}): Stamp => ({
  id,
  table: 'wells',
  column: 'note',
  on: 'create',
  value: { kind: 'text', text: 'x' },
  to: 'everyone',
  ...more,
});
const fence: Fence = { id: 'f', table: 'wells', where: noted, exceptRoles: ['sampler'] };
const base: PortalDefinition = {
  ...wellsDefinition({ wells: { owner: grant, sampler: grant, ghost: grant } }, [mask]),
  tables: { wells: { history: {} } },
  fences: [fence, { ...fence, id: 'of another', table: 'visits' }],
  lifecycles: [{ ...lifecycle, table: 'visits', column: 'fee' }, lifecycle],
  stamps: [stamp('all'), stamp('of another', { table: 'visits' }), stamp('desk', { to: ['desk'] })],
};
const tableIn = (catalogue: Catalogue, name = 'wells'): Table => findTable(catalogue, name)!;
const lens = (definition = base, role = 'owner', ceiling: Ceiling = {}) => {
  const catalogue = withCeilings(wellsCatalogue, { wells: ceiling });
  return lensOf(definition, catalogue, tableIn(catalogue), role);
};
/** The grant of wells for the owner with other parts, and nothing that binds it. */
const given = (parts: Partial<Grant>, more: Partial<PortalDefinition> = {}) =>
  lens({ ...base, fences: [], lifecycles: [], ...more, access: { wells: { owner: { ...grant, ...parts } } } });
const texts = (rows: Rows | null | undefined) => (rows && rows !== 'no row' ? rows.map(({ where }) => where) : rows);

describe('a lens', () => {
  const fenced = { origin: { kind: 'fence', id: 'f' }, where: noted };
  const part = (where: unknown, origin: PartOrigin) => [{ origin, where }, fenced];

  it('holds what is granted, within the fences, and says of each rule where it comes from', () => {
    expect(lens()).toEqual({
      role: 'owner',
      rows: part(active, { kind: 'filter', of: 'see' }),
      columns: new Map([
        ['id', { level: 'shown' }],
        ['code', { level: 'shown' }],
        ['note', { level: 'masked', mask: { style: 'all' } }],
      ]),
      create: {
        // The id is the database's own, and the state goes by moves.
        columns: new Set(['code', 'depth_m']),
        keepIn: part(active, { kind: 'keep-in', of: 'create' }),
      },
      edit: {
        rows: part(active, { kind: 'filter', of: 'see' }),
        columns: new Set(['code', 'note']),
        unseen: new Set(['note']),
        keepIn: part(active, { kind: 'keep-in', of: 'edit' }),
      },
      remove: part(deep, { kind: 'filter', of: 'delete' }),
      export: part(active, { kind: 'filter', of: 'see' }),
      moves: { column: 'state', moves: lifecycle.moves.slice(0, 2), after: [fenced] },
      stamps: [stamp('all')],
      comments: { acts: { forAll: new Set(['write']), amongUs: null }, theirsBy: [] },
      files: { acts: { forAll: null, amongUs: new Set() }, theirsBy: [] },
      history: true,
      actions: [],
    });
    // Who is exempt from the fence.
    expect(texts(lens(base, 'sampler')!.rows)).toEqual([active]);
    expect(lens(base, 'sampler')!.moves!.moves.map(({ id }) => id)).toEqual(['close', 'rest', 'not theirs']);
  });

  it('is not there without a grant, for a role that is gone, and where nothing of it can be used', () => {
    expect([lens(base, 'desk'), lens(base, 'ghost'), lens(base, 'toString')]).toEqual([null, null, null]);
    expect(lensOf(base, wellsCatalogue, tableIn(wellsCatalogue, 'visits'), 'owner')).toBeNull();
    expect(lens({ ...base, fences: [{ ...fence, where: broken }] })).toBeNull();
    const unused = {
      ...base,
      lifecycles: [],
      access: { wells: { owner: { see: { where: broken, columns: ['code'] } } } },
    };
    expect(lens(unused)).toBeNull();
  });

  it('shows no column where it has no row, and lets be written what is granted nevertheless', () => {
    const only = given({ see: undefined, edit: { where: deep, columns: ['code'] }, delete: { where: 'as seen' } })!;
    expect(only).toMatchObject({ rows: 'no row', columns: new Map(), remove: null, export: null, history: false });
    expect([only.comments, only.files]).toEqual([null, null]);
    expect(only.edit).toEqual({
      rows: [{ origin: { kind: 'filter', of: 'edit' }, where: deep }],
      columns: new Set(['code']),
      unseen: new Set(),
      keepIn: [{ origin: { kind: 'keep-in', of: 'edit' }, where: deep }],
    });
    expect(given({ see: { where: broken, columns: ['code'] } })!).toMatchObject({ rows: 'no row', columns: new Map() });
    expect(given({ see: undefined, create: { columns: ['code'] }, edit: undefined })!.create!.keepIn).toEqual([]);
  });

  it('keeps a new record in by its own rule, else that of changes, else what is seen; a changed one likewise', () => {
    const see = { where: active, columns: ['code'] };
    const kept = (parts: Partial<Grant>) => texts(given({ see, ...parts })!.create!.keepIn);
    const create = { columns: ['code'] };
    expect(kept({ create: { ...create, keepIn: noted } })).toEqual([noted]);
    expect(kept({ edit: { where: deep, columns: [], keepIn: noted } })).toEqual([noted]);
    expect(kept({ edit: { where: deep, columns: [] } })).toEqual([deep]);
    expect(kept({ edit: { where: 'as seen', columns: [] } })).toEqual([active]);
    expect(kept({ edit: undefined })).toEqual([active]);
    expect(kept({ edit: undefined, create: { ...create, keepIn: 'every row' } })).toEqual([]);
    expect(given({ create: { ...create, keepIn: broken } })!.create).toBeNull();
    const changed = (edit: Grant['edit']) => given({ edit })!.edit;
    expect(texts(changed({ where: deep, columns: [], keepIn: noted })!.keepIn)).toEqual([noted]);
    expect(texts(changed({ where: 'as seen', columns: [] })!.keepIn)).toEqual([active]);
    expect(changed({ where: broken, columns: [] })).toBeNull();
    expect(changed({ where: deep, columns: [], keepIn: broken })).toBeNull();
    expect(given({ see: undefined, edit: { where: 'as seen', columns: ['code'] } })!.edit).toBeNull();
  });

  it('moves within what must hold after a change, where that is written, and where its column is open', () => {
    const lifecycles = [lifecycle];
    const after = (edit: Grant['edit']) => texts(given({ edit }, { lifecycles })!.moves!.after);
    expect(after({ where: deep, columns: [], keepIn: noted })).toEqual([noted]);
    expect([after({ where: deep, columns: [] }), after(undefined)]).toEqual([[], []]);
    expect(given({ edit: { where: deep, columns: [], keepIn: broken } }, { lifecycles })!.moves).toBeNull();
    const moved = (ceiling: Ceiling) => lens(base, 'owner', ceiling)!.moves !== null;
    expect([moved({}), moved({ edit: false }), moved({ columns: { code: 'nothing' } })]).toEqual([true, false, true]);
    expect([moved({ columns: { state: 'read' } }), moved({ columns: { state: 'nothing' } })]).toEqual([false, false]);
    expect(given({}, { lifecycles: [{ ...lifecycle, column: 'gone' }] })!.moves).toBeNull();
    expect(given({}, { lifecycles: [{ ...lifecycle, moves: [move('no', { roles: [] })] }] })!.moves).toBeNull();
  });

  it('reads history only where it is granted, seen and kept', () => {
    expect(given({ history: undefined })!.history).toBe(false);
    expect(given({}, { tables: {} })!.history).toBe(false);
  });

  it('of a table whose key is a builder’s word has no row unless the whole key is shown', () => {
    const byWord = (columns: string[], masks: MaskRule[] = []) => {
      const table: Table = { ...tableIn(wellsCatalogue), keyByWord: true, key: ['code', 'note'] };
      const definition = {
        ...base,
        fences: [],
        masks,
        access: { wells: { owner: { see: { where: active, columns } } } },
      };
      return lensOf(definition, wellsCatalogue, table, 'owner');
    };
    expect(texts(byWord(['code', 'note'])!.rows)).toEqual([active]);
    // What it may still do goes by moves alone.
    expect([byWord(['code'])!.rows, byWord(['code', 'note'], [mask])!.rows]).toEqual(['no row', 'no row']);
  });

  it('of a steward stands beside that of the grant, moves nothing, and is of nobody else', () => {
    const stewards: PortalDefinition['stewards'] = [
      { id: 'keeper', role: 'owner', does: 'keep a table', table: 'wells' },
      { id: 'other', role: 'sampler', does: 'keep a table', table: 'wells' },
      { id: 'elsewhere', role: 'owner', does: 'keep a table', table: 'visits' },
    ];
    const actions: PortalDefinition['actions'] = [
      { id: 'a', name: 'A', table: 'wells', roles: ['owner'], asks: [], steps: [{ kind: 'move', move: 'close' }] },
    ];
    const all = (definition: PortalDefinition) =>
      lensesOf(definition, wellsCatalogue, tableIn(wellsCatalogue), 'owner').map((each) => ({
        steward: each.steward,
        moves: each.moves?.moves.length ?? 0,
        actions: each.actions.map(({ action }) => action.id),
        export: texts(each.export),
      }));
    const own = { steward: undefined, moves: 2, actions: ['a'], export: [active, noted] };
    expect(all({ ...base, actions })).toEqual([own]);
    expect(all({ ...base, actions, stewards })).toEqual([own, { ...own, steward: 'keeper', moves: 0, actions: [] }]);
  });
});

describe('of the masks on a column', () => {
  const year: Mask = { style: 'year' };
  const month: Mask = { style: 'month' };
  const strictest = (rules: Partial<MaskRule>[], column = 'birth_date', email = 'a@example.org') =>
    strictestMask(
      {
        ...base,
        masks: rules.map((rule, i) => ({ ...mask, id: `${i}`, table: 'owners', column, ...rule }) as MaskRule),
      },
      tableIn(wellsCatalogue, 'owners'),
      'birth_date',
      'owner',
      { email },
    );

  it('the one that reveals least decides, of those that apply to this role and this member', () => {
    expect(strictest([{ mask: month }, { mask: year }])).toEqual(year);
    expect(strictest([{ mask: year }, { mask: month }])).toEqual(year);
    expect(strictest([{ mask: month }, { mask: year, to: ['desk'] }])).toEqual(month);
    expect(
      strictest([
        { mask: month, to: ['owner'] },
        { mask: year, exceptRoles: ['owner'] },
      ]),
    ).toEqual(month);
    expect(strictest([{ mask: month }, { mask: year, exceptMembers: ['a@example.org'] }])).toEqual(month);
    expect(strictest([{ mask: month }, { mask: year, exceptMembers: ['b@example.org'] }])).toEqual(year);
    expect([strictest([]), strictest([{ mask: year }], 'name')]).toEqual([null, null]);
    // One that doesn't fit the column hides everything.
    expect(strictest([{ mask: { style: 'step', size: '10' } }])).toEqual({ style: 'all' });
  });
});

it('which of two is more open is the same whichever is asked first, and for no two that differ the same', () => {
  const masks: Mask[] = [
    { style: 'all' },
    { style: 'year' },
    { style: 'month' },
    { style: 'keep last', count: 2 },
    { style: 'keep last', count: 3 },
    { style: 'keep first', count: 2 },
    { style: 'all', sign: '#' },
    { style: 'all', sign: '*' },
  ];
  const all: Openness[] = [
    { level: 'shown' },
    ...masks.map((each) => ({ level: 'masked', mask: each }) as const),
    { level: 'hidden' },
  ];
  for (const [i, a] of all.entries())
    for (const [j, b] of all.entries()) {
      expect(Math.sign(moreOpen(a, b))).toBe(-Math.sign(moreOpen(b, a)) + 0);
      expect(moreOpen(a, b) === 0).toBe(i === j);
    }
  const sorted = all.toSorted((a, b) => moreOpen(b, a));
  expect([sorted[0], sorted.at(-1)]).toEqual([{ level: 'shown' }, { level: 'hidden' }]);
  // By the order of their text where they reveal as much.
  expect(
    moreOpen(
      { level: 'masked', mask: { style: 'all', sign: '#' } },
      { level: 'masked', mask: { style: 'all', sign: '*' } },
    ),
  ).toBe(1);
});
