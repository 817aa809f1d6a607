import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { when, wellsCatalogue } from '../../test/wells';
import { emptyDefinition, type PortalDefinition } from '../definition/definition';
import type { HungGrant } from '../definition/hung';
import { findTable } from '../table/catalogue';
import { sayHung, type Standing, type HungOne } from './hung-rights';
import { rightsOf } from './rights';
import { viewOf } from './view';
import type { Person } from './person';

const table = findTable(wellsCatalogue, 'wells')!;

function portal(grants: Record<string, { where: string; comments: HungGrant }>): PortalDefinition {
  const face = { slug: 'fen', name: 'Fen', timeZone: 'UTC', colour: '#445566' };
  const definition = emptyDefinition(face, 'fen');
  definition.roles = Object.keys(grants).map((id) => ({ id, name: id }));
  definition.access.wells = Object.fromEntries(
    Object.entries(grants).map(([id, { where, comments }]) => [
      id,
      { see: { where: where === '' ? 'every row' : when(where), columns: ['code'] }, comments },
    ]),
  );
  return definition;
}

const member = (roles: string[]): Person => ({
  kind: 'member',
  id: 1,
  email: null,
  organisation: null,
  roles,
  rows: {},
});

/** What a person of these roles reads and does, the record being seen by all of their roles. */
function rights(definition: PortalDefinition, roles: string[], now: Standing) {
  const view = viewOf(definition, wellsCatalogue, table, member(roles));
  return rightsOf(view, { seen: view.lenses.map(() => true) }).hung('comments', now);
}

const byOwner = 'owner_id = :member.owners.id';

describe('comments', () => {
  it('are read by an owner as far as they were written in their time, and by whoever reads earlier ones always', () => {
    const definition = portal({
      owner: { where: byOwner, comments: { forAll: ['write', 'delete own'] } },
      heir: { where: byOwner, comments: { forAll: [], earlier: true } },
      desk: { where: '', comments: { forAll: ['delete any'], amongUs: ['write'] } },
    });
    const comment = fc.record({ owner: fc.integer({ min: 1, max: 4 }), mine: fc.boolean(), inner: fc.boolean() });
    fc.assert(
      fc.property(fc.array(comment), fc.integer({ min: 1, max: 4 }), (comments, owner) => {
        const written = (each: (typeof comments)[number]): HungOne => ({
          circle: each.inner ? 'amongUs' : 'forAll',
          mine: each.mine,
          standing: { owner_id: String(each.owner) },
        });
        const read = (roles: string[]) => {
          const may = rights(definition, roles, { owner_id: String(owner) });
          return comments.filter((each) => may.reads(written(each)));
        };
        const open = comments.filter(({ inner }) => !inner);
        expect(read(['owner'])).toEqual(open.filter((each) => each.mine || each.owner === owner));
        expect(read(['heir'])).toEqual(open);
        expect(read(['owner', 'heir'])).toEqual(open);
        expect(read(['desk'])).toEqual(comments);
        expect(read([])).toEqual([]);
        const deleted = (roles: string[]) =>
          comments.filter((each) => rights(definition, roles, { owner_id: String(owner) }).deletes(written(each)));
        expect(deleted(['owner'])).toEqual(open.filter(({ mine }) => mine));
        // Among us nobody may take out anything here.
        expect(deleted(['desk', 'owner'])).toEqual(open);
      }),
    );
  });

  it.each<[string, string[][] | null]>([
    ['', []],
    ["state = 'active'", []],
    ['owner_id = :member.owners.id', [['owner_id']]],
    ["NOT (owner_id <> :member.owners.id) AND state = 'active'", [['owner_id']]],
    ['owner_id = :member.owners.id OR sampler_id = :member.samplers.id', [['owner_id'], ['sampler_id']]],
    ['owner_id IN (:member.owners.id) AND owner.parish = :member.organisation', [['owner_id'], ['owner', 'parish']]],
    ['EXISTS (visits WHERE visits.fee > 10)', []],
    ['EXISTS (visits WHERE visits.sampler_id = :member.samplers.id)', null],
    ['NOT EXISTS (visits WHERE fee > 10 AND EXISTS (visits.well.visits WHERE sampler_id = :member.samplers.id))', null],
  ])('of records where %s are told to be somebody’s by %j', (where, paths) => {
    const definition = portal({ owner: { where, comments: { forAll: [] } } });
    expect(viewOf(definition, wellsCatalogue, table, member(['owner'])).lenses[0]!.comments!.theirsBy).toEqual(paths);
  });

  it('are open only where the value that made the record theirs is known, then and now', () => {
    const definition = portal({ owner: { where: byOwner, comments: { forAll: [] } } });
    const reads = (standing: Standing, now: Standing) =>
      rights(definition, ['owner'], now).reads({ circle: 'forAll', mine: false, standing });
    expect(reads({ owner_id: '1' }, { owner_id: '1' })).toBe(true);
    expect(reads({}, { owner_id: '1' })).toBe(false);
    expect(reads({ owner_id: '1' }, {})).toBe(false);
    expect(reads({}, {})).toBe(false);
  });

  it('stand under a fence too, and are said in reports', () => {
    const definition = portal({ desk: { where: '', comments: { forAll: ['write'], amongUs: [] } } });
    expect(sayHung('comments', viewOf(definition, wellsCatalogue, table, member(['desk'])).lenses)).toEqual([
      'read for all',
      'read earlier for all',
      'write for all',
      'read among us',
      'read earlier among us',
    ]);
    definition.fences = [{ id: 'own', table: 'wells', where: when(byOwner), exceptRoles: [] }];
    const [lens] = viewOf(definition, wellsCatalogue, table, member(['desk'])).lenses;
    expect(lens!.comments!.theirsBy).toEqual([['owner_id']]);
    expect(sayHung('comments', [lens!])).toEqual(['read for all', 'write for all', 'read among us']);
  });
});
