import { when } from '../../test/wells';
import type { Form } from '../definition/form';
import type { Draft } from './mistakes.fixture';

const base: Form = {
  id: 'new',
  title: 'A new well',
  table: 'wells',
  steps: [
    {
      id: 'one',
      title: 'One',
      parts: [
        { kind: 'input', column: 'code' },
        { kind: 'input', column: 'note' },
      ],
    },
  ],
};

const sending =
  (change: (form: Form) => void, granted: string[] | null = ['code', 'note']) =>
  (d: Draft) => {
    const form = structuredClone(base);
    change(form);
    d.forms = [form];
    if (granted) d.access.wells!.owner!.create = { columns: granted, keepIn: 'every row' };
    d.pages = [
      {
        id: 'add',
        title: 'Add',
        intro: '',
        audience: { roles: ['owner'] },
        sections: [{ id: 'form', kind: 'form', form: 'new' }],
      },
    ];
  };

/** Mistakes in forms, with the words that tell what is meant. */
export const toldOfForms: [string, RegExp, (d: Draft) => void][] = [
  [
    'form does not work',
    /Nobody can send “A new well”: its key counts up/,
    sending((f) => {
      f.anonymous = true;
    }),
  ],
  ['form does not work', /Nobody can send “A new well”: there is no table barns/, sending((f) => (f.table = 'barns'))],
  [
    'form does not work',
    /asks for barn, which is gone/,
    sending((f) => f.steps[0]!.parts.push({ kind: 'input', column: 'barn' })),
  ],
  [
    'form does not work',
    /asks for wells.depth_m, which nobody may fill/,
    sending((f) => f.steps[0]!.parts.push({ kind: 'input', column: 'depth_m' })),
  ],
  [
    'form does not work',
    /asks twice for wells.note/,
    sending((f) => f.steps[0]!.parts.push({ kind: 'input', column: 'note' })),
  ],
  ['form does not work', /Owner can't send “A new well”: they may make no record/, sending(() => undefined, null)],
  [
    'form does not work',
    /Owner can't send “A new well”: nothing fills code, which the database asks for/,
    sending((f) => f.steps[0]!.parts.shift()),
  ],
  [
    'form does not work',
    /Owner can't send “A new well”: it fills wells.state, which they may not/,
    sending((f) => (f.fills = { state: { kind: 'text', text: 'active' } })),
  ],
  [
    'form does not work',
    /When the step “One” of “A new well” holds can't be told/,
    sending((f) => (f.steps[0]!.when = when("owner.name = 'x'"))),
  ],
  [
    'form does not work',
    /Nobody ever reaches the step “One” of “A new well”/,
    sending((f) => (f.steps[0]!.when = when("note = 'a' AND note = 'b'"))),
  ],
  [
    'form does not work',
    /Whether code of “A new well” is shown goes by note, which is asked later/,
    sending((f) => (f.steps[0]!.parts[0]!.when = when("note = 'a'"))),
  ],
  ['form does not work', /“A new well” leads to a page that is gone/, sending((f) => (f.then = { page: 'none' }))],
  [
    'section does not work',
    /A form on Add is gone/,
    (d) => {
      sending(() => undefined)(d);
      d.forms = [];
    },
  ],
];
