import { when } from '../../test/wells';
import type { Action, MailStep, StepValue } from '../definition/action';
import type { Draft } from './mistakes.fixture';

const press: Action = {
  id: 'rest',
  name: 'Let it rest',
  table: 'wells',
  roles: ['owner'],
  asks: [],
  steps: [{ kind: 'set', values: { note: { kind: 'text', text: 'rests' } } }],
};

const pressing = (change: Partial<Action>) => (d: Draft) => {
  d.actions = [{ ...press, ...change }];
};

const setting = (values: Record<string, StepValue>) => pressing({ steps: [{ kind: 'set', values }] });

/** Mistakes in actions, with the words that tell what is meant. */
export const toldOfActions: [string, RegExp, (d: Draft) => void][] = [
  ['action for nobody', /Nobody may do “Let it rest”/, pressing({ roles: [] })],
  ['action does not work', /“Let it rest” can't be done: it does nothing yet/, pressing({ steps: [] })],
  ['action does not work', /there is no table barns any more/, pressing({ table: 'barns' })],
  ['action does not work', /there is no column barn in wells any more/, setting({ barn: { kind: 'nothing' } })],
  ['action does not work', /nothing is asked for wells.note/, setting({ note: { kind: 'asked', ask: 'why' } })],
  ['action does not work', /wells.note doesn't lead to wells/, setting({ note: { kind: 'this' } })],
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
];
