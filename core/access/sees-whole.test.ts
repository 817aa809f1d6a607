import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { person, wellsCatalogue, wellsDefinition, when } from '../../test/wells';
import type { Grant } from '../definition/definition';
import { findTable } from '../table/catalogue';
import { seesWhole } from './sees-whole';

const table = findTable(wellsCatalogue, 'wells')!;
const see = (where: string, columns: string): Grant => ({
  see: { where: where === '' ? 'every row' : when(where), columns: columns.split(' ') },
});

const definition = wellsDefinition(
  {
    wells: {
      owner: see('owner_id = :member.owners.id', 'code owner_id note'),
      sampler: see('sampler_id = :member.samplers.id', 'code state note'),
      desk: see('', 'code state owner_id depth_m'),
    },
    owners: { desk: see('', 'id name'), owner: see('id = :member.owners.id', 'id name phone') },
  },
  [{ id: 'notes', table: 'wells', column: 'note', mask: { style: 'all' }, to: ['sampler'], exceptRoles: [] }],
);
const whole = (text: string, ...roles: string[]) =>
  seesWhole(definition, wellsCatalogue, table, when(text), person(roles));

describe('whether a condition tells somebody nothing new', () => {
  it.each<[string, string[], boolean]>([
    ["code = 'A'", ['owner'], true],
    ["code = 'A'", [], false],
    ["state = 'active'", ['owner'], false],
    // Masked is not whole.
    ["note = 'x'", ['sampler'], false],
    ["note = 'x'", ['owner'], true],
    // In the records that another role of theirs lets through it is hidden.
    ["state = 'active'", ['sampler', 'owner'], false],
    // The desk has every record, and the state of each.
    ["state = 'active'", ['owner', 'desk'], true],
    ["owner.name = 'Ada'", ['desk'], true],
    ["owner.name = 'Ada'", ['sampler'], false],
    ["owner.phone = '1'", ['desk'], false],
    ['EXISTS (visits WHERE fee > 10)', ['desk'], false],
    ["code = 'A' AND state = 'active'", ['owner'], false],
    ["code = 'A' OR NOT (depth_m > 3)", ['desk'], true],
  ])('%s, for %j: %j', (text, roles, expected) => {
    expect(whole(text, ...roles)).toBe(expected);
  });

  it('is so for several roles only where it is for one of them that has all that the others have', () => {
    const roles = fc.subarray(['owner', 'sampler', 'desk'], { minLength: 1 });
    const text = fc.constantFrom("code = 'A'", "state = 'active'", "note = 'x'", 'owner_id = 1', 'depth_m > 3');
    fc.assert(
      fc.property(roles, text, (own, asked) => {
        const each = own.map((role) => whole(asked, role));
        // The desk sees every row: what it shows whole is whole for whoever has it beside others.
        const isDesks = own.includes('desk') && whole(asked, 'desk');
        expect(whole(asked, ...own)).toBe(each.every(Boolean) || isDesks);
      }),
    );
  });
});
