import { describe, expect, it } from 'vitest';
import { wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import { findFaults } from './findings';

describe('findings', () => {
  it('finds each mistake, names its place, and finds nothing in a sound portal', () => {
    const sound = wellsDefinition({ wells: { owner: { see: { where: when('owner_id = :member.owners.id'), columns: ['code', 'note'] }, edit: { where: 'as seen', columns: ['note'] } } } });
    sound.pages = [{ id: 'wells', title: 'Wells', intro: '', roles: ['owner'], sections: [{ kind: 'list', table: 'wells', columns: ['code'], sort: [], where: 'every row', record: ['code'] }] }];
    const rosters = [{ table: 'owners', rows: 10, withoutEmail: 0, sharedEmail: 0 }];
    expect(findFaults(sound, wellsCatalogue, rosters)).toEqual([]);

    const places = (change: (d: typeof sound) => void, facts = rosters) => {
      const draft = structuredClone(sound);
      change(draft);
      return findFaults(draft, wellsCatalogue, facts).map((finding) => [finding.kind, finding.place]);
    };
    const own = { stage: 'access', table: 'wells', role: 'owner' };
    expect(places((d) => { d.access.wells!.owner!.see!.where = 'every row'; })).toEqual([['everyone reads everything', own]]);
    expect(places((d) => { d.masks = [{ id: 'm', table: 'wells', column: 'note', mask: { style: 'all' }, to: ['owner'], exceptRoles: [] }]; })).toEqual([['masked but editable', { ...own, column: 'note' }]]);
    expect(places(() => undefined, [{ table: 'owners', rows: 10, withoutEmail: 1, sharedEmail: 2 }]).map(([kind]) => kind)).toEqual(['no e-mail', 'e-mail used twice']);
    expect(places((d) => { d.access.wells!.owner!.see!.where = when('vanished = 1'); })).toEqual([['filter does not work', own], ['page shows nothing', { stage: 'pages', page: 'wells' }]]);
    expect(places((d) => { d.rosters[0]!.email = 'mail'; })).toEqual([['roster does not work', { stage: 'people', table: 'owners', column: 'mail' }]]);
    expect(places((d) => { d.pages[0]!.sections[0]!.columns.push('depth_m'); })).toEqual([['page shows nothing', { stage: 'pages', page: 'wells' }]]);
  });
});
