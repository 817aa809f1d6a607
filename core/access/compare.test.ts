import { describe, expect, it } from 'vitest';
import { noteMask as mask, person, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import type { Grant, PortalDefinition } from '../definition/definition';
import { findTable } from '../table/catalogue';
import type { RowPart } from './rows';
import { addRows, isChange, noChange, tellingRules, viewPair, type ViewChange, type ViewPair } from './compare';

/** What a change of one grant comes to, part by part. That the numbers are right of real rows is compared elsewhere. */
const own = when('owner_id = :member.owners.id');
const deep = when('depth_m > 9');
const grant: Grant = {
  see: { where: own, columns: ['code', 'note'] },
  create: { columns: ['code', 'note'] },
  edit: { where: deep, columns: ['code', 'note'] },
  delete: { where: deep },
  comments: { forAll: ['write'] },
  files: { forAll: ['write'] },
};
const wells = findTable(wellsCatalogue, 'wells')!;
const portal = (parts: Partial<Grant>, more: Partial<PortalDefinition> = {}): PortalDefinition => ({
  ...wellsDefinition({ wells: { owner: { ...grant, ...parts }, sampler: { see: { where: own, columns: ['code'] } } } }),
  tables: { wells: { history: {} } },
  ...more,
});
const owner = person(['owner']);
const pairOf = (parts: Partial<Grant>, more: Partial<PortalDefinition> = {}, from: Partial<Grant> = {}) =>
  viewPair(portal(from), portal(parts, more), wellsCatalogue, wells, owner, owner);
const none = { gained: [], lost: [] };

describe('two views', () => {
  it('are one where nothing that is seen or may be done differs, whoever it is by', () => {
    expect(pairOf({})).toBeNull();
    const other = viewPair(portal({}), portal({}), wellsCatalogue, wells, person(['sampler']), person(['sampler']));
    expect(other).toBeNull();
    // Another stamp or another origin of the same rule is no other view.
    const stamp = {
      id: 's',
      table: 'wells',
      column: 'note',
      on: 'create',
      value: { kind: 'clock', unit: 'now' },
      to: 'everyone',
    };
    expect(pairOf({}, { stamps: [stamp] } as unknown as Partial<PortalDefinition>)).toBeNull();
  });

  it.each<[string, Partial<Grant>]>([
    ['rows', { see: { where: deep, columns: ['code', 'note'] } }],
    ['columns', { see: { where: own, columns: ['code'] } }],
    ['what a new record is given', { create: { columns: ['code'] } }],
    ['whether one can be made', { create: undefined }],
    ['which are changed', { edit: { where: own, columns: ['code', 'note'] } }],
    ['what is changed', { edit: { where: deep, columns: ['code'] } }],
    ['what is changed unseen', { edit: { where: deep, columns: ['code', 'note'], unseen: ['note'] } }],
    ['whether any is', { edit: undefined }],
    ['which are deleted', { delete: { where: own } }],
    ['what is taken out', { export: { where: own } }],
    ['what is said', { comments: { forAll: ['write', 'delete own'] } }],
    ['what is hung on it', { files: {} }],
    ['whether history is read', { history: true }],
  ])('differ by %s', (_what, parts) => {
    expect(pairOf(parts)).not.toBeNull();
  });

  it('share each rule once, and say which is whose', () => {
    const { rules, places } = pairOf({ edit: { where: own, columns: ['code'] }, delete: undefined })!;
    expect(rules.map((rows) => (rows === 'no row' ? rows : rows.map(({ where }) => where)))).toEqual([[own], [deep]]);
    expect(places).toEqual({
      before: [{ seen: 0, edited: 1, removed: 1 }],
      after: [{ seen: 0, edited: 0, removed: -1 }],
    });
    expect(pairOf({ see: undefined })!.places.after).toEqual([{ seen: -1, edited: 1, removed: 1 }]);
  });
});

describe('what changes', () => {
  it('without any row is what is made, said, hung and read of history', () => {
    const nothing: ViewChange = {
      rows: { gained: 0, lost: 0, kept: 0 },
      columns: {},
      editable: {},
      deletable: { gained: 0, lost: 0 },
      creatable: none,
      comments: none,
      files: none,
      history: none,
    };
    expect(noChange(pairOf({ export: { where: own } })!)).toEqual(nothing);
    const parts: Partial<Grant> = {
      create: { columns: ['note', 'depth_m'] },
      comments: { forAll: ['delete own'] },
      files: { forAll: ['write', 'delete any'] },
      history: true,
    };
    expect(noChange(pairOf(parts)!)).toEqual({
      ...nothing,
      creatable: { gained: ['depth_m'], lost: ['code'] },
      comments: { gained: ['delete own for all'], lost: ['write for all'] },
      files: { gained: ['delete any for all'], lost: [] },
      history: { gained: ['read what changed'], lost: [] },
    });
    expect(noChange(pairOf({ create: undefined }, {}, parts)!)).toMatchObject({
      creatable: { gained: [], lost: ['note', 'depth_m'] },
      history: { gained: [], lost: ['read what changed'] },
    });
    const kept = noChange(pairOf({ history: true, export: { where: own } }, {}, { history: true })!);
    expect(kept.history).toEqual(none);
  });

  it('is told by those rules alone on which it depends', () => {
    const asked = (parts: Partial<Grant>, more: Partial<PortalDefinition> = {}, from: Partial<Grant> = {}) => {
      const pair = pairOf(parts, more, from)!;
      return tellingRules(pair).map((place) => (pair.rules[place] as readonly RowPart[])[0]!.where);
    };
    const codes = { edit: { where: deep, columns: ['code'] } };
    // What is masked is seen of the same rows; of another column it is asked which can be changed no longer.
    expect(asked(codes, { masks: [mask] }, codes)).toEqual([own]);
    expect(asked({}, { masks: [mask] })).toEqual([own, deep]);
    expect(asked({ delete: { where: own } })).toEqual([own, deep]);
    expect(asked({ create: undefined })).toEqual([own]);
    expect(asked({ see: undefined })).toEqual([own, deep]);
  });

  it('with rows is counted by what holds of them: gained, lost, kept, and cell by cell', () => {
    // Before: own rows, edited and deleted where deep. After: deep rows, note masked, all of them edited, none deleted.
    const pair = viewPair(
      portal({}),
      portal({ see: { where: deep, columns: ['code', 'note'] }, delete: undefined }, { masks: [mask] }),
      wellsCatalogue,
      wells,
      owner,
      owner,
    ) as ViewPair;
    const counted = (...rows: [isOwn: boolean, isDeep: boolean, count: number][]) => {
      const change = noChange(pair);
      for (const [isOwn, isDeep, count] of rows) addRows(change, pair, [isOwn, isDeep], count);
      const { rows: counts, columns, editable, deletable } = change;
      return { counts, columns, editable, deletable };
    };
    expect(counted([true, false, 2], [false, false, 9])).toEqual({
      counts: { gained: 0, lost: 2, kept: 0 },
      columns: {},
      editable: {},
      deletable: { gained: 0, lost: 0 },
    });
    expect(counted([false, true, 3])).toEqual({
      counts: { gained: 3, lost: 0, kept: 0 },
      columns: {},
      editable: { code: { gained: 3, lost: 0 } },
      deletable: { gained: 0, lost: 0 },
    });
    expect(counted([true, true, 4], [true, true, 1])).toEqual({
      counts: { gained: 0, lost: 0, kept: 5 },
      columns: { note: { opened: 0, closed: 5 } },
      editable: { note: { gained: 0, lost: 5 } },
      deletable: { gained: 0, lost: 5 },
    });
    const back: ViewPair = {
      ...pair,
      before: pair.after,
      after: pair.before,
      places: { before: pair.places.after, after: pair.places.before },
    };
    const change = noChange(back);
    addRows(change, back, [true, true], 4);
    expect([change.columns, change.editable, change.deletable]).toEqual([
      { note: { opened: 4, closed: 0 } },
      { note: { gained: 4, lost: 0 } },
      { gained: 4, lost: 0 },
    ]);
  });

  it('is something as soon as one part of it is', () => {
    const nothing = noChange(pairOf({ export: { where: own } })!);
    const one = { gained: 1, lost: 0 };
    const other = { gained: 0, lost: 1 };
    expect(isChange(nothing)).toBe(false);
    expect(isChange({ ...nothing, rows: { ...nothing.rows, kept: 9 } })).toBe(false);
    const parts: Partial<ViewChange>[] = [
      { rows: { ...one, kept: 0 } },
      { rows: { ...other, kept: 0 } },
      { deletable: one },
      { deletable: other },
      { columns: { note: { opened: 1, closed: 0 } } },
      { editable: { note: one } },
      { columns: { note: { opened: 1, closed: 0 } }, editable: { note: one } },
      { creatable: { gained: ['code'], lost: [] } },
      { comments: { gained: [], lost: ['write for all'] } },
      { files: { gained: ['write for all'], lost: [] } },
      { history: { gained: [], lost: ['read what changed'] } },
    ];
    for (const part of parts) expect([part, isChange({ ...nothing, ...part })]).toEqual([part, true]);
  });
});
