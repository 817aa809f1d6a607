import { expect, it } from 'vitest';
import { demoDefinition } from '../../demo/definition';
import { partsChanged } from './parts-changed';

it('tells which parts of a definition are new, gone and changed, and what of them', () => {
  const before = demoDefinition('fen');
  expect(partsChanged(before, demoDefinition('fen'))).toEqual([]);
  const after = demoDefinition('fen');
  const page = after.pages.find(({ id }) => id === 'my-wells')!;
  page.intro = 'Other words';
  page.audience = { roles: ['desk'] };
  after.actions = after.actions!.filter(({ id }) => id !== 'put-off');
  after.roles.push({ id: 'guest', name: 'Guest' });
  after.tables.wells = { ...after.tables.wells, label: 'Bores' };
  after.portal.timeZone = 'Europe/Lisbon';
  expect(partsChanged(before, after)).toEqual([
    { kind: 'role', id: 'guest', name: 'Guest', change: 'new', of: [] },
    { kind: 'page', id: 'my-wells', name: page.title, change: 'changed', of: ['intro', 'audience'] },
    { kind: 'action', id: 'put-off', name: 'Put off by 14 days', change: 'gone', of: [] },
    { kind: 'table', id: 'wells', name: 'wells', change: 'changed', of: ['label'] },
    { kind: 'setting', id: 'portal', name: 'portal', change: 'changed', of: ['timeZone'] },
  ]);
  // The other way round what was gone is new.
  expect(partsChanged(after, before).find(({ kind }) => kind === 'action')?.change).toBe('new');
});
