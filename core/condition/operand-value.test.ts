import { describe, expect, it } from 'vitest';
import type { ComparedAs } from '../sql/compared-as';
import type { Value } from '../table/value';
import { compareValues, constantValue, isConstant, type Constant, type ConditionContext } from './operand-value';
import type { Operand } from './tree';

const context: ConditionContext = {
  facts: { id: 7, 'owners.id': 17, 'owners.since': '2026-01-31' },
  along: { '["owners","place","name"]': 'Saltby' },
  today: '2026-11-23',
  now: '2026-11-23 10:00:00',
  record: { code: 'AF-1', day: '2026-02-28' },
};
const member = (...fact: string[]): Constant => ({ kind: 'member', fact });
const today: Constant = { kind: 'clock', what: 'today' };

describe('what is the same for every row', () => {
  it('is all but a column, moved or not', () => {
    const column: Operand = { kind: 'column', path: ['day'] };
    expect(isConstant(column)).toBe(false);
    expect(isConstant({ kind: 'shifted', of: { kind: 'column', path: ['day'] }, count: 1, unit: 'DAY' })).toBe(false);
    expect(isConstant({ kind: 'shifted', of: { kind: 'clock', what: 'now' }, count: 1, unit: 'DAY' })).toBe(true);
    expect(isConstant({ kind: 'text', text: 'x' })).toBe(true);
  });

  it('has its value from the text, the clock, the member and the page', () => {
    const values: [Constant, Value][] = [
      [{ kind: 'text', text: 'x' }, 'x'],
      [{ kind: 'number', digits: '7.50' }, '7.50'],
      [{ kind: 'boolean', value: false }, false],
      [today, '2026-11-23'],
      [{ kind: 'clock', what: 'now' }, '2026-11-23 10:00:00'],
      [member('id'), 7],
      [member('email'), null],
      [member('owners', 'id'), 17],
      [member('owners', 'name'), null],
      [member('owners', 'place', 'name'), 'Saltby'],
      [member('owners', 'place', 'parish'), null],
      // What every object has is no fact.
      [member('constructor'), null],
      [{ kind: 'record', column: 'code' }, 'AF-1'],
      [{ kind: 'record', column: 'name' }, null],
      [{ kind: 'record', column: 'toString' }, null],
      [{ kind: 'shifted', of: { kind: 'clock', what: 'today' }, count: -1, unit: 'MONTH' }, '2026-10-23'],
      [{ kind: 'shifted', of: { kind: 'member', fact: ['owners', 'since'] }, count: 1, unit: 'MONTH' }, '2026-02-28'],
      [{ kind: 'shifted', of: { kind: 'member', fact: ['owners', 'until'] }, count: 1, unit: 'MONTH' }, null],
      [{ kind: 'shifted', of: { kind: 'record', column: 'day' }, count: 1, unit: 'DAY' }, '2026-03-01'],
    ];
    expect(values.map(([operand]) => constantValue(operand, context))).toEqual(values.map(([, value]) => value));
    const { along: _, record: __, ...less } = context;
    expect(
      [member('owners', 'place', 'name'), { kind: 'record' as const, column: 'code' }].map((operand) =>
        constantValue(operand, less),
      ),
    ).toEqual([null, null]);
  });
});

describe('two values', () => {
  it('are in the order of what they are compared as', () => {
    const less: [ComparedAs, Value, Value][] = [
      ['text', 'b', 'C'],
      ['choice', 'b', 'C'],
      ['whole', 9, 10],
      ['whole', '9', 10],
      ['whole', 9, '10'],
      ['whole', '9007199254740992', '9007199254740993'],
      ['decimal', '0.1', '0.10000000000000000001'],
      ['decimal', -2.5, -1],
      ['double', '9', '1e1'],
      ['double', 0.1, 0.2],
      ['truth', false, true],
      ['date', '2026-01-31', '2026-02-01'],
      ['moment', '2026-01-31 10:00:00', '2026-01-31 10:00:00.000001'],
      ['moment', '2026-01-31', '2026-01-31 00:00:01'],
      ['moment', '2026-01-31 10:00:00.5', '2026-01-31 10:00:00.51'],
      ['moment', '2026-01-31 09:59:59.999999', '2026-01-31T10:00'],
      ['uuid', '6F1B7A52-0c7e-4d0f-9a54-0d1e2f3a4b5c', '6f1b7a52-0c7e-4d0f-9a54-0d1e2f3a4b5d'],
    ];
    const sign = (as: ComparedAs, a: Value, b: Value) => Math.sign(compareValues(as, a, b, 'utf8mb4_general_ci'));
    for (const [as, a, b] of less) expect([as, a, b, sign(as, a, b), sign(as, b, a)]).toEqual([as, a, b, -1, 1]);
    const same: [ComparedAs, Value, Value][] = [
      ['text', 'ä', 'A '],
      ['choice', 'new', 'NEW'],
      ['whole', 7, '7'],
      ['whole', 7, 7],
      ['decimal', '7.50', 7.5],
      ['double', '7.50', 7.5],
      ['truth', true, 1],
      ['date', '2026-01-31', '2026-01-31'],
      ['moment', '2026-01-31', '2026-01-31 00:00:00'],
      ['moment', '2026-01-31 10:00:00.500', '2026-01-31 10:00:00.5'],
      ['uuid', '6F1B7A52-0C7E-4D0F-9A54-0D1E2F3A4B5C', '6f1b7a52-0c7e-4d0f-9a54-0d1e2f3a4b5c'],
    ];
    for (const [as, a, b] of same) expect([as, a, b, sign(as, a, b)]).toEqual([as, a, b, 0]);
    expect(compareValues('text', 'a', 'A', 'utf8mb4_bin')).toBeGreaterThan(0);
  });
});
