import { describe, expect, it } from 'vitest';
import { MemoryRecords } from '../../test/memory-records';
import { person, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { withCeilings, type Ceiling } from '../definition/ceilings';
import type { Action } from '../definition/action';
import type { Lifecycle, MaskRule, PortalDefinition } from '../definition/definition';
import { findTable } from '../table/catalogue';
import type { Row } from '../table/value';
import { explain, neededToExplain } from './explain';
import { contextOf } from './person';
import { viewOf } from './view';

/** What Why says of one record, whole: an owner who is a sampler and a steward too, at their own well. */
const own = when('owner_id = :member.owners.id');
const visited = when('EXISTS (visits WHERE visits.fee > 5)');
const lifecycle: Lifecycle = {
  table: 'wells',
  column: 'state',
  moves: [
    { id: 'rest', name: 'Rest', from: ['active'], to: 'resting', roles: ['owner'], needs: ['note', 'treatment'] },
    {
      id: 'wake',
      name: 'Wake',
      from: ['resting'],
      to: 'active',
      roles: ['owner'],
      needs: [],
      where: when('depth_m > 1'),
    },
  ],
};
const press = (id: string, more: Partial<Action> = {}): Action => ({
  id,
  name: id,
  table: 'wells',
  roles: ['owner'],
  asks: [],
  steps: [{ kind: 'set', values: { note: { kind: 'text', text: 'x' } } }],
  ...more,
});
const masks: MaskRule[] = [
  {
    id: 'all',
    table: 'wells',
    column: 'note',
    mask: { style: 'keep last', count: 2 },
    to: 'everyone',
    exceptRoles: [],
  },
  { id: 'stricter', table: 'wells', column: 'note', mask: { style: 'all' }, to: ['owner'], exceptRoles: [] },
  { id: 'desk', table: 'wells', column: 'note', mask: { style: 'all' }, to: ['desk'], exceptRoles: [] },
  {
    id: 'role',
    table: 'wells',
    column: 'note',
    mask: { style: 'all' },
    to: 'everyone',
    exceptRoles: ['owner', 'sampler'],
  },
  {
    id: 'me',
    table: 'wells',
    column: 'note',
    mask: { style: 'all' },
    to: 'everyone',
    exceptRoles: [],
    exceptMembers: ['a@example.org'],
  },
  {
    id: 'code',
    table: 'wells',
    column: 'code',
    mask: { style: 'all' },
    to: 'everyone',
    exceptRoles: ['owner', 'sampler'],
  },
];
const definition: PortalDefinition = {
  ...wellsDefinition(
    {
      wells: {
        owner: {
          see: { where: own, columns: ['code', 'note', 'state'] },
          edit: { where: own, columns: ['code', 'note'], keepIn: when('depth_m < 90') },
          delete: { where: when("state = 'closed'") },
        },
        sampler: { see: { where: visited, columns: ['code'] } },
      },
    },
    masks,
  ),
  lifecycles: [lifecycle],
  actions: [
    press('mark', { where: when('depth_m > 50') }),
    press('lay', { steps: [{ kind: 'move', move: 'rest' }] }),
    press('raise', { steps: [{ kind: 'move', move: 'wake' }] }),
  ],
  stewards: [{ id: 'keeper', role: 'sampler', does: 'keep a table', table: 'wells' }],
};
const me = person(['owner', 'sampler', 'desk'], { owners: { id: 1 } });
const context = contextOf(me, new Date('2026-11-29T12:00:00Z'), 'UTC');
const well: Row = {
  id: 4,
  code: 'W4',
  owner_id: 1,
  sampler_id: null,
  depth_m: '20',
  state: 'active',
  note: 'here',
  treatment: [],
};

function why(column: string | null, row: Partial<Row> = {}, ceiling: Ceiling = {}, who = me) {
  const catalogue = withCeilings(wellsCatalogue, { wells: ceiling });
  const table = findTable(catalogue, 'wells')!;
  const visit: Row = { id: 1, well_id: 4, sampler_id: null, planned_for: null, asked_on: null, fee: '7' };
  const memory = new MemoryRecords(catalogue, { wells: [], visits: [visit], owners: [], samplers: [] });
  const record = memory.record('wells', { ...well, ...row } as Row);
  return explain(definition, catalogue, viewOf(definition, catalogue, table, who), who, record, context, column)
    .explanation;
}
/** A rule that holds, or not, with where its parts come from and what was compared. */
const rule = (holds: boolean, ...parts: unknown[]) => ({ holds, parts });
const part = (origin: object, holds: boolean, ...values: unknown[]) =>
  expect.objectContaining({
    origin,
    holds,
    trace: expect.objectContaining({ outcome: holds, ...(values.length > 0 ? { values } : {}) }),
  });

describe('why', () => {
  const seen = (of: string) => ({ kind: 'filter', of });
  const visitsSeen = rule(true, part(seen('see'), true));

  it('says of one cell what each role makes of it, rule by rule, and what may be done with the record', () => {
    const said = why('note');
    const { roles, ...rest } = said;
    expect(rest).toEqual({
      table: 'wells',
      column: 'note',
      inView: true,
      cell: { level: 'masked', mask: { style: 'all' } },
      // A masked cell is not changed.
      editable: false,
      deletable: false,
      // The move waits for its fields, and is offered.
      moves: ['rest'],
      actions: ['lay'],
      ceiling: null,
    });
    const [asOwner, asSampler, asSteward, asDesk, ...others] = roles;
    expect(others).toEqual([]);
    expect(asOwner).toEqual({
      role: 'owner',
      granted: true,
      see: rule(true, part(seen('see'), true, 1, 1)),
      edit: rule(true, part(seen('edit'), true, 1, 1)),
      remove: rule(false, part(seen('delete'), false, 'active', 'closed')),
      keepIn: rule(true, part({ kind: 'keep-in', of: 'edit' }, true, '20', '90')),
      listsColumn: true,
      moves: [
        { move: 'rest', fromHere: true, where: rule(true), missing: ['treatment'] },
        {
          move: 'wake',
          fromHere: false,
          where: rule(true, part({ kind: 'move', id: 'wake' }, true, '20', '1')),
          missing: [],
        },
      ],
      actions: [
        {
          action: 'mark',
          fromHere: true,
          where: rule(false, part({ kind: 'action', id: 'mark', of: 'where' }, false)),
        },
        { action: 'lay', fromHere: true, where: rule(true) },
        { action: 'raise', fromHere: false, where: rule(true, part({ kind: 'move', id: 'wake' }, true)) },
      ],
      openness: { level: 'masked', mask: { style: 'all' } },
      masks: [
        { id: 'all', mask: masks[0]!.mask, outcome: 'a stricter one decides' },
        { id: 'stricter', mask: masks[1]!.mask, outcome: 'decides' },
        { id: 'desk', mask: masks[2]!.mask, outcome: 'for other roles' },
        { id: 'role', mask: masks[3]!.mask, outcome: 'role excepted' },
        { id: 'me', mask: masks[4]!.mask, outcome: 'member excepted' },
      ],
    });
    const nothing = { edit: null, remove: null, keepIn: null, listsColumn: false, moves: [], actions: [] };
    const masked = [
      { id: 'all', mask: masks[0]!.mask, outcome: 'decides' },
      { id: 'stricter', mask: masks[1]!.mask, outcome: 'for other roles' },
      { id: 'desk', mask: masks[2]!.mask, outcome: 'for other roles' },
      { id: 'role', mask: masks[3]!.mask, outcome: 'role excepted' },
      { id: 'me', mask: masks[4]!.mask, outcome: 'member excepted' },
    ];
    const hidden = { openness: { level: 'hidden' }, masks: masked };
    expect(asSampler).toEqual({ role: 'sampler', granted: true, see: visitsSeen, ...nothing, ...hidden });
    expect(asSteward).toEqual({ ...asSampler, steward: 'keeper' });
    expect(asDesk).toMatchObject({ role: 'desk', granted: false, see: null, ...nothing, openness: null });
  });

  it('says of the record itself what it says of no column', () => {
    const said = why(null);
    expect(said).toMatchObject({ column: null, inView: true, cell: null, editable: true, ceiling: null });
    expect(said.roles.map(({ listsColumn, openness, masks: all }) => [listsColumn, openness, all])).toEqual(
      said.roles.map(() => [null, null, []]),
    );
    expect(said.roles.map(({ role, steward, granted }) => [role, steward, granted])).toEqual([
      ['owner', undefined, true],
      ['sampler', undefined, true],
      ['sampler', 'keeper', true],
      ['desk', undefined, false],
    ]);
  });

  it('follows the record: who has it, its state, what is filled in it', () => {
    expect(why('code')).toMatchObject({ cell: { level: 'shown' }, editable: true });
    const others = why('code', { owner_id: 2 });
    expect(others).toMatchObject({ inView: true, cell: { level: 'shown' }, editable: false, moves: [], actions: [] });
    expect(others.roles[0]!.see).toEqual(rule(false, part(seen('see'), false, 2, 1)));
    // Without the visit nobody has it.
    expect(why('code', { owner_id: 2, id: 5 })).toMatchObject({ inView: false, cell: { level: 'hidden' } });
    const resting = why('code', { state: 'resting', depth_m: '60', note: '', treatment: ['UV'] });
    expect([resting.moves, resting.actions]).toEqual([['wake'], ['mark', 'raise']]);
    expect(resting.roles[0]!.moves.map(({ fromHere, missing }) => [fromHere, missing])).toEqual([
      [false, ['note']],
      [true, []],
    ]);
    expect(why('code', { state: 'closed' }).deletable).toBe(true);
    expect(why('code', { state: null }).moves).toEqual([]);
  });

  it('says what the source itself allows of the column', () => {
    const under = (columns: Ceiling['columns']) => why('code', {}, { columns });
    expect(under({ code: 'read' })).toMatchObject({ ceiling: 'read', editable: false, cell: { level: 'shown' } });
    expect(under({ code: 'nothing' })).toMatchObject({ ceiling: 'nothing', cell: { level: 'hidden' } });
    expect(under({ note: 'read' })).toMatchObject({ ceiling: null, editable: true });
    expect(why(null, {}, { columns: { code: 'read' } }).ceiling).toBeNull();
  });

  it('says of somebody without roles that nothing is theirs', () => {
    expect(why('code', {}, {}, person([]))).toMatchObject({ inView: false, editable: false, roles: [] });
  });
});

it('what must be known of a record is each column and EXISTS of its rules, and what moves and actions look at', () => {
  const view = viewOf(definition, wellsCatalogue, findTable(wellsCatalogue, 'wells')!, me);
  const { paths, exists } = neededToExplain(view);
  expect(paths.map((path) => path.join('.')).toSorted()).toEqual(['depth_m', 'note', 'owner_id', 'state', 'treatment']);
  expect(exists).toEqual([visited]);
});
