import { describe, expect, it } from 'vitest';
import { lensOf } from '../../../core/access/lens';
import { findFaults } from '../../../core/check/findings';
import { printCondition } from '../../../core/condition/print';
import { checkCondition } from '../../../core/condition/check';
import { readDefinition } from '../../../core/definition/read';
import { wellsCatalogue, wellsDefinition } from '../../../test/wells';
import type { Level } from '../../ui/Stones';
import { columnChoices, factChoices, firstCondition, ownRows } from './choices';
import { levelOf, setLevel, setMask } from './set-level';

const wells = wellsCatalogue.tables[1]!;
const levels: Level[] = ['hidden', 'masked', 'shown', 'editable'];
const start = () => wellsDefinition({ wells: { owner: { see: { where: 'every row', columns: ['code'] } }, sampler: { see: { where: 'every row', columns: ['code', 'note'] }, edit: { where: 'as seen', columns: ['note'] } } } },
  [{ id: 'wells-note', table: 'wells', column: 'note', mask: { style: 'keep last', count: 2 }, to: 'everyone', exceptRoles: ['sampler'] }]);

describe('setting a stone', () => {
  it('gives that level, from every level to every level, for that role alone, and a sound definition', () => {
    for (const column of ['note', 'state', 'code']) {
      for (const from of levels) {
        for (const to of levels) {
          const draft = start();
          setLevel(draft, wells, 'owner', column, from);
          expect([column, levelOf(draft, wells, 'owner', column)]).toEqual([column, from]);
          const others = wells.columns.map((each) => levelOf(draft, wells, 'sampler', each.name));
          setLevel(draft, wells, 'owner', column, to);
          expect([column, from, levelOf(draft, wells, 'owner', column)]).toEqual([column, from, to]);
          expect(wells.columns.map((each) => levelOf(draft, wells, 'sampler', each.name))).toEqual(others);
          expect(() => readDefinition(JSON.parse(JSON.stringify(draft)))).not.toThrow();
          expect(findFaults(draft, wellsCatalogue, []).filter((finding) => finding.kind === 'masked but editable')).toEqual([]);
        }
      }
    }
  });

  it('says what the lens does', () => {
    const draft = start();
    for (const level of levels) {
      setLevel(draft, wells, 'owner', 'state', level);
      const lens = lensOf(draft, wellsCatalogue, wells, 'owner')!;
      expect(lens.columns.get('state')?.level ?? 'hidden').toBe(level === 'editable' ? 'shown' : level);
      expect(lens.edit?.columns.has('state') ?? false).toBe(level === 'editable');
    }
  });

  it('changes the mask that applies to the role and no other', () => {
    const draft = start();
    setLevel(draft, wells, 'sampler', 'state', 'masked');
    setMask(draft, 'wells', 'state', 'sampler', { style: 'all' });
    setLevel(draft, wells, 'owner', 'note', 'masked');
    setMask(draft, 'wells', 'note', 'owner', { style: 'all' });
    expect(draft.masks.map((rule) => [rule.id, 'column' in rule && rule.column, rule.mask.style, rule.to, rule.exceptRoles])).toEqual([['wells-note', 'note', 'all', 'everyone', ['sampler']], ['wells-state', 'state', 'all', ['sampler'], []]]);
    setLevel(draft, wells, 'sampler', 'state', 'shown');
    expect(draft.masks.map((rule) => rule.id)).toEqual(['wells-note']);
  });
});

describe('choices', () => {
  it('find a role\'s own rows by the keys', () => {
    const draft = wellsDefinition({});
    const found = (table: number, role: string) => ownRows(draft, wellsCatalogue, wellsCatalogue.tables[table]!, role).map((each) => printCondition(each));
    expect(found(1, 'owner')).toEqual(['owner_id = :member.owners.id']);
    expect(found(1, 'sampler')).toEqual(['sampler_id = :member.samplers.id']);
    expect(found(0, 'owner')).toEqual(['id = :member.owners.id']);
    expect(found(0, 'sampler')).toEqual([]);
    expect(found(1, 'desk')).toEqual([]);
  });

  it('offer columns through relations and begin with a condition that works', () => {
    expect(columnChoices(wellsCatalogue, wells).map((choice) => choice.path.join('.'))).toEqual(expect.arrayContaining(['code', 'owner.name', 'sampler.district']));
    for (const table of wellsCatalogue.tables) expect(checkCondition(firstCondition(table), { catalogue: wellsCatalogue, table, member: true })).toEqual([]);
    expect(factChoices(wellsDefinition({}), wellsCatalogue)).toContainEqual({ operand: { kind: 'member', fact: ['samplers', 'district'] }, group: 'the member\'s row in samplers' });
  });
});
