import fc from 'fast-check';
import { expect, test } from 'vitest';
import { anyCondition } from '../../test/any-condition';
import { demoDefinition } from '../../demo/definition';
import { readDefinition, usesOf } from '../../sections/definition';
import type { ListSection } from '../../sections/list/spec';
import type { Condition } from '../condition/tree';
import type { PortalDefinition } from './definition';
import { namedFilterUses } from './named-filter-uses';
import { wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { tries } from '../../test/thorough';

/** As it comes from a file or from an edit. */
const read = (definition: PortalDefinition) => readDefinition(JSON.parse(JSON.stringify(definition)));
const named = (condition: Condition, id: string): Condition => ({ ...condition, named: id });

test('whatever is named after a filter is the filter, wherever it stands; what stands beside it stays', () => {
  fc.assert(
    fc.property(anyCondition, anyCondition, anyCondition, (where, old, beside) => {
      const draft = demoDefinition('alder_fen');
      const plain = JSON.stringify(draft.access.visits);
      draft.tables.visits = { ...draft.tables.visits, filters: { open: { name: 'Open visits', where } } };
      draft.tables.visits.rules = [{ id: 'kept', does: 'kept', columns: ['fee'], when: named(old, 'open') }];
      const sampler = draft.access.visits!.sampler!;
      sampler.see!.where = named(old, 'open');
      sampler.edit = { ...sampler.edit!, where: { kind: 'all', parts: [beside, named(old, 'open')] } };
      const list = draft.pages.find((page) => page.id === 'my-visits')!.sections[0] as ListSection;
      list.where = { kind: 'not', part: named(old, 'open') };
      // Another table has no such filter: there it is a condition and nothing else.
      draft.access.wells!.sampler!.see!.where = named(old, 'open');
      const taken = read(draft);
      const meant = named(where, 'open');
      expect(taken.access.visits!.sampler!.see!.where).toEqual(meant);
      expect(taken.access.visits!.sampler!.edit!.where).toEqual({ kind: 'all', parts: [beside, meant] });
      const { sections } = taken.pages.find((page) => page.id === 'my-visits')!;
      expect((sections[0] as ListSection).where).toEqual({ kind: 'not', part: meant });
      expect(taken.access.wells!.sampler!.see!.where).toEqual(old);
      expect(taken.tables.visits!.rules![0]!.when).toEqual(meant);
      expect(namedFilterUses(taken, 'visits', 'open')).toBe(4);
      // Without the filter all stays as it is, and is nobody's name.
      delete taken.tables.visits!.filters;
      const after = read(taken);
      expect(after.access.visits!.sampler!.see!.where).toEqual(where);
      expect(namedFilterUses(after, 'visits', 'open')).toBe(0);
      expect(JSON.stringify({ ...after.access.visits, sampler: undefined })).toBe(
        JSON.stringify({ ...JSON.parse(plain), sampler: undefined }),
      );
    }),
    { numRuns: tries(15, 60) },
  );
});

test('a filter uses the columns that it names, and one that is named after another is itself', () => {
  const draft = wellsDefinition({});
  draft.tables.wells = {
    filters: {
      deep: { name: 'Deep', where: when('depth_m > 30') },
      other: { name: 'Other', where: named(when("state = 'active'"), 'deep') },
    },
  };
  const taken = read(draft);
  expect(taken.tables.wells!.filters!.other!.where).toEqual(when("state = 'active'"));
  expect(usesOf(taken, wellsCatalogue, 'wells', 'depth_m')).toEqual(['the filter Deep of wells']);
});

test('a filter brings along neither more depth nor more size than could have been written where it is used', () => {
  const nested = (depth: number): Condition => {
    let condition: Condition = when("state = 'active'");
    for (let i = 0; i < depth; i++) condition = { kind: 'not', part: condition };
    return condition;
  };
  const using = (filter: Condition, at: Condition) => {
    const draft = wellsDefinition({ wells: { owner: { see: { where: at, columns: ['code'] } } } });
    draft.tables.wells = { filters: { deep: { name: 'Deep', where: filter } } };
    return draft;
  };
  const inside = (depth: number): Condition => {
    let condition: Condition = named(when("state = 'active'"), 'deep');
    for (let i = 0; i < depth; i++) condition = { kind: 'not', part: condition };
    return condition;
  };
  expect(() => read(using(nested(60), inside(60)))).not.toThrow();
  expect(() => read(using(nested(120), inside(120)))).toThrow(/nested too deep/);
  const wide: Condition = {
    kind: 'any',
    parts: Array.from({ length: 199 }, (_, i) => when(`code = '${'x'.repeat(300)}${i}'`)),
  };
  const often: Condition = {
    kind: 'any',
    parts: Array.from({ length: 200 }, () => named(when("state = 'active'"), 'deep')),
  };
  expect(() => read(using(wide, often))).toThrow(/too large|too long/);
  const long: Condition = { kind: 'any', parts: Array.from({ length: 4 }, () => wide) };
  const ruled = using(wide, inside(1));
  ruled.tables.wells!.rules = [{ id: 'long', does: 'kept', columns: ['code'], when: long }];
  expect(() => read(ruled)).toThrow(/too long/);
});
