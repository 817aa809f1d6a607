import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Sheet } from './definition';
import { outsideGroups, placed, sheetFor, withGroups } from './sheet';

const sheet: Sheet = {
  columns: ['a', 'b', 'c', 'd'],
  groups: [
    { id: 'one', title: 'One', columns: ['c'] },
    { id: 'two', title: 'Two', columns: ['d'], audience: { roles: ['desk'] } },
  ],
  linked: [{ table: 'visits', column: 'well_id', columns: ['fee'], audience: { roles: ['desk'] } }],
};

describe('a sheet in groups', () => {
  it('takes a column from where it stood to where it is put', () => {
    const moved = placed(sheet, 'one', ['c', 'a']);
    expect([moved.columns, outsideGroups(moved)]).toEqual([['b', 'c', 'a', 'd'], ['b']]);
    expect(placed(moved, null, ['d', 'b']).columns).toEqual(['d', 'b', 'c', 'a']);
    // Without its group it stands with the first.
    expect(withGroups(sheet, sheet.groups!.slice(1)).columns).toEqual(['a', 'b', 'c', 'd']);
    expect(withGroups(sheet, [])).toEqual({ columns: ['a', 'b', 'c', 'd'], linked: sheet.linked });
  });

  it('holds each column once, however it is arranged', () => {
    const names = fc.uniqueArray(fc.constantFrom('a', 'b', 'c', 'd', 'e'));
    const steps = fc.array(fc.tuple(fc.constantFrom(null, 'one', 'two'), names), { maxLength: 8 });
    fc.assert(
      fc.property(steps, (all) => {
        for (const step of [all.reduce((now, [group, columns]) => placed(now, group, columns), sheet)]) {
          const stood = [...outsideGroups(step), ...step.groups!.flatMap(({ columns }) => columns)];
          expect([step.columns, new Set(stood).size]).toEqual([stood, stood.length]);
          const [group, columns] = all.at(-1) ?? [undefined, []];
          if (group !== undefined)
            expect(group === null ? outsideGroups(step) : step.groups!.find(({ id }) => id === group)!.columns).toEqual(
              columns,
            );
        }
      }),
    );
  });

  it('is without what is not for somebody', () => {
    const of = (roles: string[]) =>
      sheetFor(
        sheet,
        (audience) => audience.roles !== 'everyone' && audience.roles.some((role) => roles.includes(role)),
      );
    expect(of(['desk'])).toEqual(sheet);
    expect(of(['owner'])).toEqual({ columns: ['a', 'b', 'c'], groups: sheet.groups!.slice(0, 1), linked: [] });
  });
});
