import { describe, expect, it } from 'vitest';
import { person, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import type { Grant } from '../definition/definition';
import { findColumn, findTable } from '../table/catalogue';
import { ownFacts, ownValueOf } from './own-facts';
import { contextOf, type Person } from './person';

const see = (where: string, columns: string): Grant => ({
  see: { where: where === '' ? 'every row' : when(where), columns: columns.split(' ') },
});

const definition = (grant: Grant) =>
  wellsDefinition({ owners: { owner: grant, desk: see('', 'name') } }, [
    { id: 'phones', table: 'owners', column: 'phone', mask: { style: 'all' }, to: ['owner'], exceptRoles: [] },
  ]);

const ada = (more: Partial<Person> = {}): Person => ({
  ...person(['owner']),
  email: 'ada@example.org',
  rows: { owners: { id: 7, name: 'Ada', phone: '1' } },
  ...more,
});

function facts(grant: Grant, who = ada()): string[] {
  const context = contextOf(who, new Date('2026-11-27T10:00:00Z'), 'UTC');
  return ownFacts(definition(grant), wellsCatalogue, who, context).map((fact) => fact.join('.'));
}

describe('what people may compare with of themselves', () => {
  it.each<[string, Grant, string[]]>([
    ['what they see whole', see('id = :member.owners.id', 'id name phone'), ['email', 'owners.id', 'owners.name']],
    ['what every row shows', see('', 'name phone'), ['email', 'owners.name']],
    ['nothing of a record that they don’t see', see('id <> :member.owners.id', 'id name'), ['email']],
    ['nothing where it takes other records to know', see('EXISTS (wells WHERE depth_m > 1)', 'id'), ['email']],
    ['nothing where no rule can be used', see("nowhere = 'x'", 'id name'), ['email']],
  ])('%s', (_, grant, expected) => {
    expect(facts(grant)).toEqual(expected);
  });

  it('is what one of their roles shows, and nothing of what is kept from whoever looks as them', () => {
    const own = see('id = :member.owners.id', 'id');
    expect(facts(own, ada({ roles: ['desk', 'owner'] }))).toEqual(['email', 'owners.id', 'owners.name']);
    expect(facts(own, ada({ rows: {} }))).toEqual(['email']);
    expect(facts(own, ada({ kind: 'visitor' }))).toEqual([]);
    expect(facts(own, ada({ withoutSight: true }))).not.toContain('email');
  });

  it('makes records theirs by a relation to their own, and to where their own leads', () => {
    const wells = findTable(wellsCatalogue, 'wells')!;
    const owner = wells.relations.find(({ column }) => column === 'owner_id')!;
    const by = (own: string[][], relation = owner) =>
      ownValueOf(own, wellsCatalogue, findColumn(wells, relation.column)!, relation);
    expect(by([['email'], ['owners', 'id']])).toEqual({ fact: ['owners', 'id'], isThemselves: true });
    // A well stands in for whoever has an owner: what it leads to is theirs, and they aren't it.
    expect(by([['wells', 'owner_id']])).toEqual({ fact: ['wells', 'owner_id'], isThemselves: false });
    expect(by([['email'], ['owners', 'name']])).toBeNull();
  });
});
