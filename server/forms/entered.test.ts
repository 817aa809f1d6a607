import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Condition, Operand } from '../../core/condition/tree';
import type { FormPart, FormRule, FormStep } from '../../core/definition/form';
import { evaluate } from '../../core/condition/evaluate';
import { enteredScope } from '../../core/form/form-conditions';
import { stateOf, valuesToSend, type FormInfo } from '../../sections/form/entered';
import type { Value } from '../../core/table/value';
import { column } from '../../test/wells';
import { InvalidValues } from '../gate/gate';
import { tableOfForm, type FormTold } from './form-told';
import { readEntered } from './read-entered';

/**
 * Random forms and what is typed into them: the browser, which has the form and what was typed, and the server, which
 * has the form and what was sent, must come to the same.
 */
const columns = [
  column('t', 'text', { maxLength: 6 }),
  column('n', 'whole number', { min: '0', max: '9' }),
  column('d', 'date'),
  column('y', 'yes/no'),
  column('c', 'one choice', { choices: ['a', 'b', 'c'] }),
  column('m', 'decimal', { precision: 4, scale: 1 }),
];
const names = columns.map(({ name }) => name);
const constants: Record<string, Operand[]> = {
  t: ['x', 'yy', ''].map((text) => ({ kind: 'text', text })),
  n: ['0', '3'].map((digits) => ({ kind: 'number', digits })),
  d: [
    { kind: 'clock', what: 'today' },
    { kind: 'text', text: '2026-12-01' },
  ],
  y: [{ kind: 'boolean', value: true }],
  c: ['a', 'b'].map((text) => ({ kind: 'text', text })),
  m: [{ kind: 'number', digits: '1.5' }],
};

const leaf: fc.Arbitrary<Condition> = fc.constantFrom(...names).chain((name) =>
  fc.oneof(
    fc.constant<Condition>({ kind: 'null', left: { kind: 'column', path: [name] } }),
    fc
      .tuple(fc.constantFrom(...constants[name]!), fc.constantFrom('=' as const, '<>' as const))
      .map(([right, comparison]): Condition => ({
        kind: 'compare',
        left: { kind: 'column', path: [name] },
        comparison,
        right,
      })),
  ),
);
const condition: fc.Arbitrary<Condition> = fc.oneof(
  leaf,
  leaf.map((part): Condition => ({ kind: 'not', part })),
  fc
    .tuple(fc.constantFrom('all' as const, 'any' as const), leaf, leaf)
    .map(([kind, ...parts]): Condition => ({ kind, parts })),
);
const when = fc.option(condition, { nil: undefined }).map((own) => (own ? { when: own } : {}));

const anyForm: fc.Arbitrary<FormInfo> = fc
  .tuple(
    fc.shuffledSubarray(names, { minLength: 1 }),
    fc.array(fc.tuple(when, fc.boolean()), { minLength: 6, maxLength: 6 }),
    fc.array(when, { minLength: 3, maxLength: 3 }),
    fc.array(
      fc.tuple(
        fc.constantFrom('required' as const, 'refused' as const),
        fc.subarray(names, { minLength: 1 }),
        condition,
      ),
      { maxLength: 3 },
    ),
  )
  .map(([asked, parts, steps, rules]): FormInfo => {
    const inputs = asked.map((name, i): FormPart => ({
      kind: 'input',
      column: name,
      ...parts[i]![0],
      ...(parts[i]![1] ? { required: true as const } : {}),
    }));
    const third = Math.ceil(inputs.length / 3);
    return {
      title: 'T',
      table: 'things',
      steps: [0, 1, 2].map((at): FormStep => ({
        id: `s${at}`,
        title: 'S',
        parts: inputs.slice(at * third, (at + 1) * third),
        ...(at === 0 ? {} : steps[at]),
      })),
      rules: rules.map(([does, of, own], i): FormRule => ({
        id: `r${i}`,
        does,
        columns: of,
        when: own,
        message: 'No.',
      })),
      columns,
      inputs: [],
      first: {},
      facts: {},
      lines: {},
      changes: false,
      today: '2026-11-28',
      now: '2026-11-28 09:00:00',
      send: 'Send',
      corrects: false,
      anonymous: false,
      leads: null,
      closed: null,
    };
  });

const texts = ['', 'x', 'yy', 'a', 'c', '3', '1,5', '12', '2026-12-01', '2026-11-28', 'true', 'false', 'much too long'];
const anyTyped = fc
  .tuple(...names.map(() => fc.constantFrom(...texts)))
  .map((all) => Object.fromEntries(all.map((text, i) => [names[i]!, text])));

/** What the server makes of what was sent: what is kept, or what is wrong with it. */
function onServer(form: FormTold, sent: Record<string, unknown>) {
  try {
    const { values, asked } = readEntered(form, {
      values: JSON.parse(JSON.stringify(sent)) as Record<string, unknown>,
    });
    return { values, asked: [...asked].sort(), faults: {} };
  } catch (error) {
    if (!(error instanceof InvalidValues)) throw error;
    return { faults: error.fields };
  }
}

it('browser and server decide alike what is asked, what is wrong, and what arrives', () => {
  const noted = { sent: 0, refused: 0, hidden: 0 };
  fc.assert(
    fc.property(anyForm, anyTyped, (form, typed) => {
      const here = stateOf(form, typed);
      const there = onServer(form, valuesToSend(form, here, typed));
      expect(there.faults).toEqual(here.faults);
      if (Object.keys(here.faults).length > 0) return void noted.refused++;
      expect(there).toMatchObject({ values: here.values, asked: [...here.asked].sort() });
      noted.sent++;
      // Whoever sends all that was typed, hidden or not, gets the same kept.
      const whole = valuesToSend(form, { ...here, asked: new Set(names) }, typed);
      if (Object.keys(whole).length > here.asked.size) noted.hidden++;
      expect(onServer(form, whole)).toEqual(there);
      // Each part is shown because its condition holds of what was asked before it, and of nothing else.
      const before = new Map<string, Value>();
      const scope = enteredScope(tableOfForm(form));
      const holds = (own: Condition | undefined) => {
        const read = { value: ([name]: readonly string[]) => before.get(name!) ?? null, exists: () => false };
        const clock = { facts: {}, today: form.today, now: form.now };
        return own === undefined || evaluate(own, scope, read, clock) === true;
      };
      for (const step of form.steps) {
        const shown = here.steps.find(({ id }) => id === step.id);
        expect(shown !== undefined).toBe(holds(step.when));
        for (const part of shown ? step.parts : []) {
          if (part.kind !== 'input') continue;
          expect(here.asked.has(part.column)).toBe(holds(part.when));
          if (here.asked.has(part.column)) before.set(part.column, here.values[part.column] ?? null);
        }
      }
    }),
    { numRuns: 3000, seed: 14 },
  );
  console.log(`forms: ${JSON.stringify(noted)}`);
  expect(noted.sent).toBeGreaterThan(500);
  expect(noted.refused).toBeGreaterThan(500);
  expect(noted.hidden).toBeGreaterThan(100);
});
