import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { planStanding, type KnownStanding, type StandingPlan, type StandingRow } from './standing-plan';
import { tries } from '../../test/thorough';

const rosters = ['owners', 'samplers'];
const row = (roster: string, key: string, email: string): StandingRow => ({ roster, key, email, name: `of ${key}` });
const member = (id: number, email: string, rows: string[], onRoster = true): KnownStanding => ({
  id,
  email,
  name: '',
  onRoster,
  rows: rows.map((each) => ({ roster: each.split('/')[0]!, key: each.split('/')[1]! })),
});
const open = (id: number, email: string): KnownStanding => ({ ...member(id, email, []), withoutRow: true });
const said = ({ known, fresh }: StandingPlan) => [
  ...known.map((each) => `${each.id} ${each.email}${each.isAddressNew ? ' anew' : ''}: ${rowsOf(each)}`),
  ...fresh.map((each) => `new ${each.email}: ${rowsOf(each)}`),
];
const rowsOf = ({ onRoster, rows }: Pick<StandingPlan['known'][number], 'onRoster' | 'rows'>) =>
  `${onRoster ? '' : 'gone '}${rows.map((each) => `${each.roster}/${each.key}${each.holds ? '' : '?'}`).join(' ')}`;

describe('who is who', () => {
  it.each([
    ['a row appears', [], [row('owners', '1', 'a')], ['new a: owners/1']],
    ['a row goes', [member(1, 'a', ['owners/1'])], [], ['1 a: gone owners/1?']],
    ['it comes back', [member(1, 'a', ['owners/1'], false)], [row('owners', '1', 'a')], ['1 a: owners/1']],
    ['its address changes', [member(1, 'a', ['owners/1'])], [row('owners', '1', 'b')], ['1 b anew: owners/1']],
    [
      'two rows change addresses',
      [member(1, 'a', ['owners/1']), member(2, 'b', ['owners/2'])],
      [row('owners', '1', 'b'), row('owners', '2', 'a')],
      ['1 b anew: owners/1', '2 a anew: owners/2'],
    ],
    [
      'an address moves to another row',
      [member(1, 'a', ['owners/1'])],
      [row('owners', '2', 'a')],
      ['1 a: gone owners/1?', 'new a: owners/2'],
    ],
    [
      'an address moves to a row that is somebody',
      [member(1, 'a', ['owners/1']), member(2, 'b', ['owners/2'])],
      [row('owners', '1', 'c'), row('owners', '2', 'a')],
      ['1 c anew: owners/1', '2 a anew: owners/2'],
    ],
    [
      'a row of another roster has the address',
      [member(1, 'a', ['owners/1'])],
      [row('owners', '1', 'a'), row('samplers', '7', 'a')],
      ['1 a: owners/1 samplers/7'],
    ],
    [
      'one of two rows changes its address',
      [member(1, 'a', ['owners/1', 'samplers/7'])],
      [row('owners', '1', 'a'), row('samplers', '7', 'b')],
      ['1 a: owners/1', 'new b: samplers/7'],
    ],
    [
      'both rows change to one address',
      [member(1, 'a', ['owners/1', 'samplers/7'])],
      [row('owners', '1', 'b'), row('samplers', '7', 'b')],
      ['1 b anew: owners/1 samplers/7'],
    ],
    [
      'it changes to the address of somebody else on another roster',
      [member(1, 'a', ['owners/1']), member(2, 'b', ['samplers/7'])],
      [row('owners', '1', 'b'), row('samplers', '7', 'b')],
      ['1 a: gone ', '2 b: owners/1 samplers/7'],
    ],
    ['without a row they stay', [open(1, 'a')], [], ['1 a: ']],
    ['a row comes for somebody without', [open(1, 'a')], [row('owners', '1', 'a')], ['1 a: owners/1']],
    [
      'a row that is somebody changes to the address of somebody without',
      [open(1, 'a'), member(2, 'b', ['owners/2'])],
      [row('owners', '2', 'a')],
      ['1 a: gone ', '2 a anew: owners/2'],
    ],
    [
      'two rows of one roster have one address',
      [member(1, 'a', ['owners/1'])],
      [row('owners', '1', 'a'), row('owners', '2', 'a')],
      ['1 a: gone owners/1?'],
    ],
  ] as const)('%s', (_what, members, rows, plan) => {
    expect(said(planStanding(rosters, [...members], [...rows]))).toEqual(plan);
  });

  const someRow = fc.record({
    roster: fc.constantFrom(...rosters),
    key: fc.constantFrom('1', '2', '3', '4'),
    email: fc.constantFrom('a', 'b', 'c', 'd'),
    name: fc.constant(''),
  });
  /** Rows of a moment: a key once in a roster. */
  const newcomer = fc.option(fc.constantFrom('a', 'b', 'c', 'd', 'e'));
  const moment = fc.uniqueArray(someRow, { selector: ({ roster, key }) => `${roster}/${key}`, maxLength: 8 });

  /** What the store holds after a plan. */
  function after(plan: StandingPlan, before: readonly KnownStanding[]): KnownStanding[] {
    const all = [...plan.known, ...plan.fresh.map((each, i) => ({ ...each, id: before.length + 1 + i }))];
    return all.map(({ id, email, name, onRoster, rows }) => {
      // Whoever has had a row follows that from then on.
      const hadNone = before.find((each) => each.id === id)?.withoutRow && !rows.some(({ holds }) => holds);
      return { id, email, name, onRoster, rows, ...(hadNone ? { withoutRow: true } : {}) };
    });
  }

  it('holds whatever happens to the rows, moment after moment', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(moment, newcomer), { minLength: 1, maxLength: 6 }), (moments) => {
        let members: KnownStanding[] = [];
        for (const [rows, email] of moments) {
          // Somebody new proves an address that was nobody's before and stands in no row.
          if (email !== null && ![...members, ...rows].some((each) => each.email === email))
            members.push({ id: members.length + 1, email, name: email, onRoster: true, withoutRow: true, rows: [] });
          const plan = planStanding(rosters, members, rows);
          const next = after(plan, members);
          const address = ({ roster, email }: StandingRow) => `${roster}/${email}`;
          const single = rows.filter((each) => rows.filter((other) => address(other) === address(each)).length === 1);
          // Every row that is one person's is exactly one member's who is in, and no other row is anybody's.
          const held = [...plan.known, ...plan.fresh].flatMap((each) =>
            each.onRoster
              ? each.rows.filter(({ holds }) => holds).map((at) => `${at.roster}/${at.key}=${each.email}`)
              : [],
          );
          expect(held.toSorted()).toEqual(single.map((each) => `${each.roster}/${each.key}=${each.email}`).toSorted());
          const heldBy = new Set(held.map((each) => each.split('=')[1]!));
          const inside = next.filter(({ onRoster }) => onRoster).map(({ email }) => email);
          expect(new Set(inside).size).toBe(inside.length);
          for (const each of plan.known) {
            const before = members.find(({ id }) => id === each.id)!;
            // Nobody comes to another address without proof, and nobody to a row that is not theirs by row or address.
            expect(each.isAddressNew).toBe(each.onRoster && each.email !== before.email);
            if (each.isAddressNew)
              expect(
                each.rows.some(
                  (at) => at.holds && before.rows.some((own) => own.roster === at.roster && own.key === at.key),
                ),
              ).toBe(true);
            const isHeld = each.rows.some(({ holds }) => holds);
            if (isHeld || !before.withoutRow) expect(each.onRoster).toBe(isHeld);
            // Whoever came without a row stays, unless they are gone already or the address is somebody else's by now.
            else expect(each.onRoster).toBe(before.onRoster && !heldBy.has(before.email));
            expect(new Set(each.rows.map(({ roster }) => roster)).size).toBe(each.rows.length);
          }
          // A row is nobody's twice over, also among those that are gone.
          const all = next.flatMap((each) => each.rows.map((at) => `${at.roster}/${at.key}`));
          expect(new Set(all).size).toBe(all.length);
          // The same moment again changes nothing, in whatever order it is told.
          const again = planStanding(rosters, next.toReversed(), rows.toReversed());
          expect(again.fresh).toEqual([]);
          expect(after(again, next).toSorted((a, b) => a.id - b.id)).toEqual(next);
          members = next;
        }
      }),
      { numRuns: tries(500, 2000) },
    );
  });
});
