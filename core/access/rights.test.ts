import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Action } from '../definition/action';
import type { Move } from '../definition/definition';
import { column } from '../../test/wells';
import type { ActionLens } from './action-rights';
import { moreOpen, type Lens, type Openness } from './lens';
import { rightsOf, tableRights, type Outcomes } from './rights';
import type { View } from './view';

/** Views of up to four roles on one table, and outcomes of their rules on one record, both at random. */
const names = ['a', 'b', 'c', 'state'];
const states = ['new', 'open', 'shut'];
const some = fc.subarray(names);
const openness: fc.Arbitrary<Openness> = fc.oneof(
  fc.constant<Openness>({ level: 'shown' }),
  fc.constantFrom<Openness>({ level: 'masked', mask: { style: 'all' } }, { level: 'masked', mask: { style: 'year' } }),
);
const move = (id: string): fc.Arbitrary<Move> =>
  fc.record({
    id: fc.constant(id),
    name: fc.constant(id),
    from: fc.subarray(states, { minLength: 1 }),
    to: fc.constantFrom(...states),
    roles: fc.constant([]),
    needs: fc.constant([]),
  });
const press = (id: string): Action => ({ id, name: id, table: 't', roles: [], asks: [], steps: [] });
const presses: Record<string, Action> = { first: press('first'), second: press('second') };

const moves = fc.tuple(move('first'), move('second'));

const anyCase = moves.chain((all) => {
  const lens = (role: string): fc.Arbitrary<Lens> =>
    fc.record({
      role: fc.constant(role),
      rows: fc.constantFrom<Lens['rows']>([], 'no row'),
      columns: some
        .chain((shown) => fc.tuple(...shown.map((name) => fc.tuple(fc.constant(name), openness))))
        .map((each) => new Map(each)),
      create: fc.option(fc.record({ columns: some.map((each) => new Set(each)), keepIn: fc.constant([]) })),
      edit: fc.option(
        fc.tuple(some, some).map(([columns, unseen]) => ({
          rows: [],
          columns: new Set(columns),
          unseen: new Set(unseen.filter((each) => columns.includes(each))),
          keepIn: [],
        })),
      ),
      remove: fc.option(fc.constant([])),
      export: fc.option(fc.constant([])),
      moves: fc.option(fc.subarray(all).map((own) => ({ column: 'state', moves: own, after: [] }))),
      stamps: fc.constant([]),
      comments: fc.constant(null),
      files: fc.constant(null),
      history: fc.constant(false),
      actions: fc.subarray(all).chain((own) =>
        fc.tuple(...own.map((each) => fc.option(fc.constant(each)))).map((led) =>
          own.map((each, i): ActionLens => ({
            action: presses[each.id]!,
            where: [],
            after: [],
            set: {},
            writes: new Set(),
            move: led[i] ? { column: 'state', move: led[i] } : null,
            stamps: [],
            makes: [],
          })),
        ),
      ),
    });
  return fc
    .array(fc.constantFrom('x', 'y', 'z', 'w'), { maxLength: 4 })
    .chain((roles) => fc.tuple(...[...new Set(roles)].map(lens)))
    .chain((lenses) => {
      const flags = fc.array(fc.boolean(), { minLength: lenses.length, maxLength: lenses.length });
      const only = (held: boolean[], has: (each: Lens) => boolean) => held.map((each, i) => each && has(lenses[i]!));
      return fc.record({
        view: fc.constant<View>({
          table: { name: 't', key: ['a'], relations: [], columns: names.map((name) => column(name, 'text')) },
          lenses,
        }),
        outcomes: fc.record({
          seen: flags.map((held) => only(held, (each) => each.rows !== 'no row')),
          edited: flags.map((held) => only(held, (each) => each.edit !== null)),
          removed: flags.map((held) => only(held, (each) => each.remove !== null)),
          moves: fc.tuple(
            ...lenses.map((each) =>
              fc.array(fc.boolean(), {
                minLength: each.moves?.moves.length ?? 0,
                maxLength: each.moves?.moves.length ?? 0,
              }),
            ),
          ),
          actions: fc.tuple(
            ...lenses.map((each) =>
              fc.array(fc.boolean(), { minLength: each.actions.length, maxLength: each.actions.length }),
            ),
          ),
          state: fc.option(fc.constantFrom(...states)),
        }),
      });
    });
});

/** The most open of these, hidden when there is none: "a cell is as open as the most open lens that has that row". */
const mostOpen = (all: Openness[]): Openness =>
  all.reduce((best, each) => (moreOpen(each, best) > 0 ? each : best), { level: 'hidden' });

/** What access.md says of one record, said once more, rule by rule. */
function asWritten(
  { lenses }: View,
  { seen, edited, removed, moves: may, actions: pressed, state }: Required<Outcomes>,
) {
  const inView = seen.some(Boolean);
  const through = (has: readonly boolean[]) => lenses.filter((_, i) => has[i]);
  const cell = (name: string) => mostOpen(through(seen).flatMap((lens) => lens.columns.get(name) ?? []));
  const isShown = (name: string) => cell(name).level === 'shown';
  const edits = (name: string) =>
    inView &&
    through(edited).some((lens) => lens.edit!.columns.has(name) && (isShown(name) || lens.edit!.unseen.has(name)));
  return {
    inView,
    cells: names.map(cell),
    edits: names.map(edits),
    shown: names.filter((name) => edits(name) && isShown(name)),
    deletable: inView && removed.some(Boolean),
    moves: ['first', 'second'].filter(
      (id) =>
        inView &&
        state !== null &&
        lenses.some(
          (lens, i) =>
            (seen[i] || edited[i]) &&
            lens.moves?.moves.some((each, place) => each.id === id && each.from.includes(state) && may[i]![place]),
        ),
    ),
    actions: ['first', 'second'].filter((id) =>
      lenses.some(
        (lens, i) =>
          seen[i] &&
          lens.actions.some(
            ({ action, move: led }, place) =>
              action.id === id &&
              pressed[i]![place] &&
              (led === null || (state !== null && led.move.from.includes(state))),
          ),
      ),
    ),
  };
}

describe('rights', () => {
  it('are of each record what the design says, whichever roles, rules and outcomes there are', () => {
    fc.assert(
      fc.property(anyCase, ({ view, outcomes }) => {
        const rights = rightsOf(view, outcomes);
        expect({
          inView: rights.inView,
          cells: names.map((name) => rights.cell(name)),
          edits: names.map((name) => rights.edits(name)),
          shown: names.filter((name) => rights.editable.shown.has(name)),
          deletable: rights.deletable,
          moves: rights.moves.map((each) => each.move.id).toSorted(),
          actions: rights.actions.map((each) => each.action.id).toSorted(),
        }).toEqual(asWritten(view, outcomes));
      }),
      { numRuns: 3000 },
    );
  });

  it('on a table are never less than on one of its records, and never more than its roles give', () => {
    fc.assert(
      fc.property(anyCase, ({ view, outcomes }) => {
        const [table, record] = [tableRights(view), rightsOf(view, outcomes)];
        if (record.inView) expect(table.sees).toBe(true);
        if (record.deletable) expect(table.removes).toBe(true);
        if (record.moves.length > 0) expect(table.state).toBe('state');
        for (const { action } of record.actions) expect(table.actions).toContain(action);
        // What can't be told is offered wherever its role has the record, whether it can be done or not.
        expect(new Set(record.offered(() => true))).toEqual(new Set(record.actions.map(({ action }) => action)));
        const untold = record.offered(() => false).map(({ id }) => id);
        const had = view.lenses.flatMap((lens, i) => (outcomes.seen[i] ? lens.actions : []));
        expect(new Set(untold)).toEqual(new Set(had.map(({ action }) => action.id)));
        for (const name of names) {
          if (record.edits(name)) expect(table.changes.has(name)).toBe(true);
          if (table.changes.has(name)) expect(view.lenses.some((lens) => lens.edit?.columns.has(name))).toBe(true);
          if (table.fills?.has(name)) expect(view.lenses.some((lens) => lens.create?.columns.has(name))).toBe(true);
        }
        const { lenses } = view;
        const fills = (name: string) => lenses.some(({ create }) => create?.columns.has(name));
        expect(table).toMatchObject({
          sees: lenses.some(({ rows }) => rows !== 'no row'),
          exports: lenses.some((lens) => lens.export !== null && lens.rows !== 'no row'),
          removes: lenses.some(({ remove }) => remove !== null),
          state: lenses.some((lens) => lens.moves) ? 'state' : null,
        });
        for (const name of names) {
          const writes = fills(name) || table.changes.has(name);
          const isShown = lenses.some(({ columns }) => columns.get(name)?.level === 'shown');
          expect([table.brings(name), table.chooses(name)]).toEqual([writes, writes || isShown]);
        }
        expect(table.makers.map((maker) => maker.role)).toEqual(
          view.lenses.filter((lens) => lens.create).map((lens) => lens.role),
        );
      }),
      { numRuns: 1000 },
    );
  });
});
