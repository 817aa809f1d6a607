import { when } from '../../test/wells';
import type { Brought } from '../definition/brought';
import type { Action, CallStep, MailStep, StepValue } from '../definition/action';
import type { Draft } from './mistakes.fixture';

const press: Action = {
  id: 'rest',
  name: 'Let it rest',
  table: 'wells',
  roles: ['owner'],
  asks: [],
  steps: [{ kind: 'set', values: { note: { kind: 'text', text: 'rests' } } }],
};

export const pressing = (change: Partial<Action>) => (d: Draft) => {
  d.actions = [{ ...press, ...change }];
};

const setting = (values: Record<string, StepValue>) => pressing({ steps: [{ kind: 'set', values }] });

/** Actions that a service does when something happens. */
const byItself =
  (...all: (Partial<Action> & Pick<Action, 'id' | 'on'>)[]) =>
  (d: Draft) => {
    d.roles.push({ id: 'clock', name: 'Clock', for: 'services' });
    d.access.wells!.clock = { see: { where: 'every row', columns: ['code', 'note', 'state', 'owner_id'] } };
    d.actions = all.map((each) => ({ ...press, roles: ['clock'], ...each }));
  };

/** Mistakes in actions, with the words that tell what is meant. */
export const toldOfActions: [string, RegExp, (d: Draft) => void][] = [
  ['action for nobody', /Nobody may do “Let it rest”/, pressing({ roles: [] })],
  ['action does not work', /“Let it rest” can't be done: it does nothing yet/, pressing({ steps: [] })],
  ['action does not work', /there is no table barns any more/, pressing({ table: 'barns' })],
  ['action does not work', /there is no column barn in wells any more/, setting({ barn: { kind: 'nothing' } })],
  ['action does not work', /nothing is asked for wells.note/, setting({ note: { kind: 'asked', ask: 'why' } })],
  ['action does not work', /wells.note doesn't lead to wells/, setting({ note: { kind: 'this' } })],
  [
    'action does not work',
    /wells.note goes by a record that is not made before/,
    setting({ note: { kind: 'made', make: 0 } }),
  ],
  ['action does not work', /it goes by barn, which is gone/, setting({ note: { kind: 'column', path: ['barn'] } })],
  ['action does not work', /the move that it makes is gone/, pressing({ steps: [{ kind: 'move', move: 'shut' }] })],
  ['action does not work', /the page that it leads to is gone/, pressing({ steps: [{ kind: 'go', page: 'none' }] })],
  ...(
    [
      [/its mail can't be written: In line 1/, { subject: 'Well {{code' }],
      [/its mail goes by barn, which is gone/, { text: 'In {{barn}}' }],
      [/it writes to a role that is gone/, { mail: { to: 'role', role: 'nobody' } }],
      [/Owner can't do “Let it rest”: it goes by wells.depth_m/, { mail: { to: 'column', path: ['depth_m'] } }],
    ] as [RegExp, Partial<MailStep>][]
  ).map(([words, change]): (typeof toldOfActions)[number] => [
    'action does not work',
    words,
    pressing({ steps: [{ kind: 'mail', mail: { to: 'presser' }, subject: 'S', text: 'T', ...change }] }),
  ]),
  ['action does not work', /can't be done: .*vanished/, pressing({ where: when('vanished = 1') })],
  ['action does not work', /it is a right of a role that is gone/, pressing({ roles: ['nobody'] })],
  [
    'action does not work',
    /Owner can't do “Let it rest”: it would write what a ceiling, a key or a lifecycle closes/,
    setting({ id: { kind: 'number', digits: '1' } }),
  ],
  [
    'action does not work',
    /Owner can't do “Let it rest”: it goes by wells.depth_m, which they are not shown/,
    setting({ note: { kind: 'column', path: ['depth_m'] } }),
  ],
  [
    'action does not work',
    /Owner can't do “Let it rest”: nothing fills wells.code, which the database asks for/,
    pressing({ steps: [{ kind: 'make', table: 'wells', values: {} }] }),
  ],
  [
    'action does not work',
    /Owner can't do “Let it rest”: they see nothing of samplers/,
    pressing({ table: 'samplers', steps: [{ kind: 'set', values: { name: { kind: 'text', text: 'x' } } }] }),
  ],
  [
    'action writes unseen',
    /Owner writes wells.depth_m by “Let it rest”, and doesn't see it/,
    setting({ depth_m: { kind: 'number', digits: '1' } }),
  ],
  [
    'unique column tells',
    /Owner can find out by “Let it rest” which values of wells.code are taken/,
    pressing({
      asks: [{ id: 'code', table: 'wells', column: 'code' }],
      steps: [{ kind: 'set', values: { code: { kind: 'asked', ask: 'code' } } }],
    }),
  ],
  [
    'rights can be written',
    /Owner may change owners.email by “Let it rest”, which says who is a member/,
    (d) => {
      d.access.owners = { owner: { see: { where: when('id = :member.owners.id'), columns: ['id', 'email'] } } };
      d.actions = [
        { ...press, table: 'owners', steps: [{ kind: 'set', values: { email: { kind: 'text', text: 'x' } } }] },
      ];
    },
  ],
  ...(
    [
      [/the address that it calls is gone/, { address: 'nowhere' }],
      [/it sends barn, which is gone/, { values: { barn: { kind: 'column', path: ['barn'] } } }],
      [/nothing is asked for why/, { values: { why: { kind: 'asked', ask: 'why' } } }],
      [/what Outside answers goes into wells.barn, which is gone/, { answers: { barn: 'barn' } }],
      [
        /Owner can't do “Let it rest”: it goes by wells.depth_m/,
        { values: { d: { kind: 'column', path: ['depth_m'] } } },
      ],
      [/Owner can't do “Let it rest”: it would write what a ceiling, a key or/, { answers: { id: 'id' } }],
    ] as [RegExp, Partial<CallStep>][]
  ).map(([words, change]): (typeof toldOfActions)[number] => [
    'action does not work',
    words,
    (d) => {
      d.addresses = [{ id: 'out', name: 'Outside', url: 'https://outside.example.org/' }];
      pressing({ steps: [{ kind: 'call', address: 'out', values: {}, ...change }] })(d);
    },
  ]),
  ...(
    [
      [/so it needs one role for services/, { roles: ['owner'] }],
      [/so it needs one role for services/, { roles: ['clock', 'owner'] }],
      [/nobody is there to be asked/, { asks: [{ id: 'code', table: 'wells', column: 'code' }] }],
      [/its mail to whoever presses/, { steps: [{ kind: 'mail', mail: { to: 'presser' }, subject: 'S', text: 'T' }] }],
      [/it would change a record that is deleted by then/, { on: { what: 'deleted' } }],
      [/the move that sets it off is gone/, { on: { what: 'moved', move: 'shut' } }],
    ] as [RegExp, Partial<Action>][]
  ).map(([words, change]): (typeof toldOfActions)[number] => [
    'action does not work',
    words,
    byItself({ id: 'rest', on: { what: 'made' }, ...change }),
  ]),
  [
    'action sets itself off',
    /“Let it rest” sets itself off/,
    byItself({ id: 'rest', where: when("note = 'x'"), on: { what: 'changed' } }),
  ],
  [
    'action sets itself off',
    /“Let it rest”, then “Other” sets off “Let it rest” again/,
    byItself(
      { id: 'rest', on: { what: 'made' } },
      {
        id: 'other',
        name: 'Other',
        on: { what: 'changed' },
        steps: [{ kind: 'make', table: 'wells', values: { code: { kind: 'text', text: 'W' } } }],
      },
    ),
  ],
  ...(
    [
      [/the address that it comes from is gone/, { address: 'none' }],
      [/there is no table barns any more/, { table: 'barns' }],
      [/it needs a role for services/, { role: 'owner' }],
      [/Clock may neither add nor change anything in wells/, {}],
    ] as [RegExp, Partial<Brought>][]
  ).map(([words, change]): (typeof toldOfActions)[number] => [
    'bringing does not work',
    words,
    (d) => {
      byItself()(d);
      d.addresses = [{ id: 'out', name: 'Outside', url: 'https://outside.example.org/' }];
      d.brought = [
        { id: 'b', name: 'B', address: 'out', table: 'wells', at: '01:00', role: 'clock', refused: 'hold', ...change },
      ];
    },
  ]),
];
