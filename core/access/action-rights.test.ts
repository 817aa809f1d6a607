import { describe, expect, it } from 'vitest';
import { wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import type { Action, ActionStep, MakeStep } from '../definition/action';
import { withCeilings, type Ceiling } from '../definition/ceilings';
import type { Fence, Move, PortalDefinition, Stamp } from '../definition/definition';
import { findTable } from '../table/catalogue';
import { actionLenses } from './action-rights';
import { everyRow, type Rows } from './rows';

/** What a role may do by an action: whole, bound as all its rights are, and not there where anything of it can't be. */
const text = (given: string) => ({ kind: 'text', text: given }) as const;
const set = (column: string): ActionStep => ({ kind: 'set', values: { [column]: text('x') } });
const make = (more: Partial<MakeStep> = {}): MakeStep => ({
  kind: 'make',
  table: 'visits',
  values: { well_id: { kind: 'this' }, fee: { kind: 'asked', ask: 'fee' } },
  ...more,
});
const mail = (subject: string): ActionStep => ({
  kind: 'mail',
  mail: { to: 'presser' },
  subject,
  text: 'Well {{code}}',
});
const call = (address: string): ActionStep => ({
  kind: 'call',
  address,
  values: {},
  answers: { treatment: 'a.b' },
});
const deep = when('depth_m > 9');
const noted = when("note = 'x'");
const broken = when('gone = 1');
const move: Move = { id: 'rest', name: 'Rest', from: ['active'], to: 'resting', roles: [], needs: [], where: deep };
const fence = (id: string, table: string, where = noted): Fence => ({ id, table, where, exceptRoles: ['desk'] });
const stamp = (id: string, table: string, to: Stamp['to'] = 'everyone'): Stamp => ({
  id,
  table,
  column: 'note',
  on: 'change',
  value: text('x'),
  to,
});
const base: PortalDefinition = {
  ...wellsDefinition({}),
  roles: [
    { id: 'owner', name: 'Owner' },
    { id: 'desk', name: 'Desk' },
    { id: 'machine', name: 'Machine', for: 'services' },
  ],
  lifecycles: [
    { table: 'visits', column: 'asked_on', moves: [] },
    { table: 'wells', column: 'state', moves: [{ ...move, id: 'other' }, move] },
  ],
  fences: [fence('of wells', 'wells'), fence('of visits', 'visits', when('fee > 1'))],
  stamps: [stamp('w', 'wells'), stamp('v', 'visits'), stamp('desk', 'wells', ['desk'])],
  addresses: [{ id: 'tracker', name: 'Tracker', url: 'https://tracker.example.org' }],
};
const seen: Rows = [{ origin: { kind: 'filter', of: 'see' }, where: when("state = 'active'") }];

interface Given {
  role?: string;
  rows?: Rows;
  definition?: Partial<PortalDefinition>;
  ceilings?: Record<string, Ceiling>;
  key?: string[];
}
/** The lenses of one action with these parts. */
function lenses(parts: Partial<Action>, { role = 'owner', rows = seen, definition, ceilings = {}, key }: Given = {}) {
  const action: Action = {
    id: 'a',
    name: 'A',
    table: 'wells',
    roles: ['owner', 'machine'],
    asks: [],
    steps: [],
    ...parts,
  };
  const catalogue = withCeilings(wellsCatalogue, ceilings);
  const table = findTable(catalogue, 'wells')!;
  return actionLenses(
    { ...base, ...definition, actions: [action] },
    catalogue,
    key ? { ...table, key } : table,
    role,
    rows,
  );
}
const isThere = (...given: Parameters<typeof lenses>) => lenses(...given).length === 1;

describe('an action', () => {
  it('is a right with its condition, its move’s, what it writes, and the bounds of what it makes', () => {
    const steps = [
      set('note'),
      call('tracker'),
      { kind: 'move', move: 'rest' } as const,
      make({ keepIn: when('fee < 9') }),
    ];
    const where = when("code = 'A'");
    expect(lenses({ where, steps })).toEqual([
      {
        action: expect.objectContaining({ id: 'a', where, steps }),
        where: [
          { origin: { kind: 'action', id: 'a', of: 'where' }, where },
          { origin: { kind: 'move', id: 'rest' }, where: deep },
        ],
        after: seen,
        set: { note: text('x') },
        writes: new Set(['note', 'treatment']),
        move: { column: 'state', move },
        stamps: [stamp('w', 'wells')],
        makes: [
          {
            step: steps[3],
            fills: new Set(['well_id', 'fee']),
            keepIn: [
              { origin: { kind: 'action', id: 'a', of: 'keep-in' }, where: when('fee < 9') },
              { origin: { kind: 'fence', id: 'of visits' }, where: when('fee > 1') },
            ],
            stamps: [stamp('v', 'visits')],
          },
        ],
      },
    ]);
  });

  it('that says nothing else holds everywhere, keeps in what is seen, or in its own rule and the fences', () => {
    const [plain] = lenses({});
    expect(plain).toMatchObject({ where: everyRow, after: seen, set: {}, writes: new Set(), move: null, makes: [] });
    const [kept] = lenses({ keepIn: deep });
    expect(kept!.after).toEqual([
      { origin: { kind: 'action', id: 'a', of: 'keep-in' }, where: deep },
      { origin: { kind: 'fence', id: 'of wells' }, where: noted },
    ]);
    expect(lenses({ keepIn: 'every row', roles: ['desk'] }, { role: 'desk' })[0]!.after).toEqual([]);
  });

  it('is its roles’, on its table, where they see a row; by itself a service’s alone', () => {
    const on = { what: 'made' } as const;
    expect([isThere({}), isThere({}, { role: 'machine' }), isThere({}, { role: 'desk' })]).toEqual([true, true, false]);
    expect([isThere({ table: 'visits' }), isThere({}, { rows: 'no row' })]).toEqual([false, false]);
    expect([isThere({ on }), isThere({ on }, { role: 'machine' })]).toEqual([false, true]);
  });
});

describe('an action is not there at all', () => {
  const ceilings = (wells: Ceiling) => ({ ceilings: { wells } });

  it.each<[string, boolean, ...Parameters<typeof lenses>]>([
    ['whose condition can’t be asked', false, { where: broken }],
    ['whose keep-in rule can’t be asked', false, { keepIn: broken }],
    ['whose fence can’t be asked', false, { keepIn: deep }, { definition: { fences: [fence('f', 'wells', broken)] } }],
    ['whose mail can’t be read', false, { steps: [mail('{{code')] }],
    ['whose mail can be', true, { steps: [mail('{{code}}')] }],
    ['that calls what is no address', false, { steps: [call('tracker'), call('gone')] }],
    ['that calls where there is none', false, { steps: [call('tracker')] }, { definition: { addresses: undefined } }],
    ['whose move is gone', false, { steps: [{ kind: 'move', move: 'gone' }] }],
    [
      'whose lifecycle is gone',
      false,
      { steps: [{ kind: 'move', move: 'rest' }] },
      { definition: { lifecycles: undefined } },
    ],
    [
      'whose state is a column that is gone',
      false,
      { steps: [{ kind: 'move', move: 'rest' }] },
      { definition: { lifecycles: [{ table: 'wells', column: 'gone', moves: [move] }] } },
    ],
    [
      'whose state is closed',
      false,
      { steps: [{ kind: 'move', move: 'rest' }] },
      ceilings({ columns: { state: 'read' } }),
    ],
    [
      'whose move’s condition can’t be asked',
      false,
      { steps: [{ kind: 'move', move: 'lost' }] },
      {
        definition: {
          lifecycles: [{ table: 'wells', column: 'state', moves: [{ ...move, id: 'lost', where: broken }] }],
        },
      },
    ],
    [
      'that moves, where nothing is changed',
      false,
      { steps: [{ kind: 'move', move: 'rest' }] },
      ceilings({ edit: false }),
    ],
    ['that writes, where nothing is changed', false, { steps: [set('note')] }, ceilings({ edit: false })],
    ['that does neither, where nothing is changed', true, { steps: [mail('x')] }, ceilings({ edit: false })],
    ['that writes where records can’t be told apart', false, { steps: [set('note')] }, { key: [] }],
    ['that writes the state', false, { steps: [set('state')] }],
    ['that writes the key', false, { steps: [set('code')] }, { key: ['code'] }],
    ['that writes a column that is gone', false, { steps: [set('note'), set('gone')] }],
    ['that writes what is closed', false, { steps: [set('note')] }, ceilings({ columns: { note: 'read' } })],
    [
      'whose call is answered into what is closed',
      false,
      { steps: [call('tracker')] },
      ceilings({ columns: { treatment: 'read' } }),
    ],
    ['that makes what is gone', false, { steps: [make({ table: 'gone' })] }],
    ['that makes where nothing is made', false, { steps: [make()] }, { ceilings: { visits: { create: false } } }],
    [
      'that makes where only nothing is changed',
      true,
      { steps: [make({ values: {} })] },
      { ceilings: { visits: { edit: false } } },
    ],
    ['that makes with a rule that can’t be asked', false, { steps: [make({ values: {}, keepIn: broken })] }],
    ['that fills the state of what it makes', false, { steps: [make({ values: { asked_on: text('x') } })] }],
    ['that fills what the database fills', false, { steps: [make({ values: { id: text('1') } })] }],
    ['one of whose two is not to be made', false, { steps: [make({ values: {} }), make({ table: 'gone' })] }],
  ])('%s: %s', (_name, there, parts, given) => {
    expect(isThere(parts, given)).toBe(there);
  });
});
