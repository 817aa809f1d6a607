import { firstList, listOf } from '../../test/pages';
import { findFaults, translate, usesOf } from '../../sections/definition';
import { renamedCatalogue } from './renamed-catalogue';
import { describe, expect, it } from 'vitest';
import { printCondition } from '../condition/print';
import { parseCondition } from '../condition/parse';
import { wellsCatalogue, wellsDefinition, when } from '../../test/wells';

const definition = {
  ...wellsDefinition(
    {
      wells: {
        owner: {
          see: {
            where: when("owner_id = :member.owners.id AND EXISTS (visits WHERE fee > 5 AND well.owner.parish = 'x')"),
            columns: ['id', 'code', 'owner_id'],
          },
        },
      },
      visits: {
        owner: {
          see: {
            where: when('well.owner.email = :member.email OR planned_for > :now - INTERVAL 2 DAY'),
            columns: ['id', 'fee'],
          },
          edit: { where: 'as seen', columns: ['fee'], keepIn: when('NOT (fee IN (1, 2))') },
        },
      },
    },
    [{ id: 'parish', table: 'owners', column: 'parish', mask: { style: 'all' }, to: 'everyone', exceptRoles: [] }],
  ),
  sheets: {
    visits: {
      columns: ['fee', 'well.code'],
      groups: [
        {
          id: 'well',
          title: 'Its well',
          columns: ['well.code'],
          audience: { roles: ['owner'], where: when(":member.owners.parish = 'x'") },
        },
      ],
    },
  },
  pages: [
    {
      id: 'visits',
      title: 'Visits',
      intro: '',
      audience: { roles: ['owner'], where: when(":member.owners.parish = 'x'") },
      sections: [
        listOf('visits', ['well.owner.name', 'fee'], {
          sort: [{ column: 'well.owner.parish', descending: true }],
          where: when("well.owner.parish = 'x'"),
          sheet: { columns: ['planned_for', 'well.owner.email'] },
        }),
        { id: 'words', kind: 'text' as const, text: 'Dear {:member.owners.name}, of {:member.owners.parish}.' },
      ],
    },
  ],
};
const back = (catalogue: typeof wellsCatalogue, renaming: { table: string; column?: string; to: string }) => {
  const now = renamedCatalogue(catalogue, renaming);
  return { now, there: translate(definition, catalogue, now) };
};

describe('a renaming', () => {
  it('is followed by every rule and page, along every relation, and back again', () => {
    for (const table of wellsCatalogue.tables) {
      for (const column of [undefined, ...table.columns.map((each) => each.name)]) {
        const { now, there } = back(wellsCatalogue, { table: table.name, column, to: 'brand_new' });
        // Nothing that was sound has become unsound, and the way back gives the same document.
        expect(
          findFaults(there, now, [])
            .map((finding) => finding.kind)
            .toSorted(),
        ).toEqual(
          findFaults(definition, wellsCatalogue, [])
            .map((finding) => finding.kind)
            .toSorted(),
        );
        expect(translate(there, now, wellsCatalogue)).toEqual(definition);
        const text = JSON.stringify(there);
        if (usesOf(definition, wellsCatalogue, table.name, column).length > 0) expect(text).toContain('brand_new');
      }
    }
  });

  it('renames what is called after it', () => {
    const { there, now } = back(wellsCatalogue, { table: 'wells', column: 'owner_id', to: 'keeper_id' });
    expect(firstList(there.pages[0]).columns).toEqual(['well.keeper.name', 'fee']);
    expect(printCondition(there.access.wells!.owner!.see!.where as never)).toBe(
      printCondition(
        parseCondition("keeper_id = :member.owners.id AND EXISTS (visits WHERE fee > 5 AND well.keeper.parish = 'x')")
          .condition,
      ),
    );
    expect(now.tables.find((table) => table.name === 'owners')!.many!.map((many) => many.name)).toEqual(['wells']);
    expect(usesOf(definition, wellsCatalogue, 'owners', 'parish')).toEqual([
      'what Owner may do with wells',
      'the mask parish',
      'the sheet of visits',
      'the page Visits',
    ]);
    expect(usesOf(definition, wellsCatalogue, 'samplers', 'district')).toEqual([]);
  });
});
