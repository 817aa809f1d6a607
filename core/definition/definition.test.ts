import { readDefinition } from '../../sections/definition';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyCondition } from '../../test/any-condition';
import { demoDefinition } from '../../demo/definition';
import type { ListSection } from '../../sections/list/spec';
import { sheetOf } from './definition';
import { printPath, readPath } from './path';
import format1 from './upgrade/format-1.json';
import { sectionSpecs } from '../../sections/specs';
import { definitionSchemas } from './definition-schema';
import { withNamedFilters } from './named-filters';
import { DefinitionError, writeDefinition } from './read';
import { tries } from '../../test/thorough';

const faultsOf = (change: (document: Record<string, any>) => void): string[] => {
  const document = structuredClone(demoDefinition('alder_fen')) as Record<string, any>;
  change(document);
  try {
    readDefinition(document);
    return [];
  } catch (error) {
    return (error as DefinitionError).faults.map((fault) => fault.place);
  }
};

describe('the definition document', () => {
  it('is the same after writing and reading', () => {
    const demo = demoDefinition('alder_fen');
    expect(readDefinition(JSON.parse(writeDefinition(demo)))).toEqual(demo);
  });

  it('takes every condition there is', () => {
    fc.assert(
      fc.property(anyCondition, (condition) => {
        expect(
          faultsOf((document) => {
            document.access.wells.well_owner.see.where = JSON.parse(JSON.stringify(condition));
          }),
        ).toEqual([]);
      }),
      { numRuns: tries(60, 300) },
    );
  });

  it('is read alike whether or not its parts were read before, under whatever names they stand', () => {
    const demo = JSON.parse(writeDefinition(demoDefinition('alder_fen'))) as Record<string, unknown>;
    const parts = fc.constantFrom(...Object.keys(demo));
    readDefinition(demo);
    let [taken, refused] = [0, 0];
    fc.assert(
      fc.property(parts, parts, fc.constantFrom('moved', 'lost', 'emptied'), (part, from, how) => {
        const was = demo[part];
        const value = how === 'moved' ? demo[from] : how === 'lost' ? undefined : Array.isArray(was) ? [] : {};
        const document = { ...demo, [part]: value };
        // The whole form knows no part.
        const { error, value: whole } = definitionSchemas(sectionSpecs).whole.validate(document, {
          abortEarly: false,
          convert: false,
        });
        if (error) {
          expect(faultsOf((d) => Object.assign(d, { [part]: value }))).toEqual(
            error.details.map(({ path }) => path.map((each) => `/${each}`).join('')),
          );
          refused++;
        } else {
          expect(readDefinition(document)).toEqual(withNamedFilters(whole, sectionSpecs));
          taken++;
        }
      }),
      { numRuns: tries(20, 300), seed: 20261130 },
    );
    expect(Math.min(taken, refused)).toBeGreaterThan(3);
  });

  it('names every fault by its place and takes nothing of a broken document', () => {
    expect(
      faultsOf((d) => {
        d.portal.colour = 'blue';
        d.roles[0].id = 'Not An Id';
        delete d.access.wells.well_owner.see.columns;
      }),
    ).toEqual(['/portal/colour', '/roles/0/id', '/access/wells/well_owner/see/columns']);
    expect(
      faultsOf((d) => {
        d.surprise = 1;
      }),
    ).toEqual(['/surprise']);
    expect(
      faultsOf((d) => {
        d.masks[0].mask = { style: 'keep last', count: 0 };
      }),
    ).toEqual(['/masks/0/mask/count']);
    expect(
      faultsOf((d) => {
        d.access.wells.well_owner.see.where = { kind: 'sql', text: '1=1' };
      }),
    ).toHaveLength(1);
    expect(
      faultsOf((d) => {
        d.roles.push(d.roles[0]);
      }),
    ).toEqual(['/roles/12', '/roles/12']);
    expect(
      faultsOf((d) => {
        d.portal.timeZone = 'Moon/Base';
      }),
    ).toEqual(['/portal/timeZone']);
    expect(
      faultsOf((d) => {
        d.formatVersion = 3;
      }),
    ).toEqual(['/formatVersion']);
    expect(() => readDefinition('text')).toThrow(DefinitionError);
    expect(() => readDefinition(null)).toThrow(DefinitionError);
  });

  it('of an older format is read as that of today, and shows every record as it did', () => {
    // As version 1 of the format had the demo, kept as it was written then.
    const old = format1 as unknown as {
      pages: { roles: string[]; sections: { table: string; record: string[]; columns: string[] }[] }[];
    };
    const read = readDefinition(format1);
    // Nothing but pages and sheets is said otherwise today.
    const beside = ({ pages: _pages, sheets: _sheets, formatVersion: _version, ...rest }: Record<string, unknown>) =>
      rest;
    expect(beside(read as unknown as Record<string, unknown>)).toEqual(beside(format1));
    expect(read.pages.map(({ sections }) => sections.map((section) => (section as ListSection).columns))).toEqual(
      old.pages.map(({ sections }) => sections.map(({ columns }) => columns)),
    );
    expect(
      read.pages.map((page) => ({
        roles: page.audience.roles,
        records: page.sections.map((section) => {
          const { table, sheet } = section as ListSection;
          return [table, (sheet ?? sheetOf(read, table))!.columns];
        }),
      })),
    ).toEqual(
      old.pages.map(({ roles, sections }) => ({
        roles,
        records: sections.map(({ table, record }) => [table, record]),
      })),
    );
  });

  it('of an older format that is broken is refused by the place of each fault', () => {
    for (const [change, places] of [
      [(d: any) => (d.pages[0].sections[0].record = 'code'), ['/sheets/wells/columns']],
      [
        (d: any) => (d.pages[0].sections[0].table = 5),
        ['/pages/0/sections/0/id', '/pages/0/sections/0/table', '/pages/0/sections/0/record'],
      ],
      [(d: any) => (d.pages = 'none'), ['/pages']],
      [(d: any) => (d.pages[0].sections = {}), ['/pages/0/sections']],
      [(d: any) => (d.formatVersion = 0), ['/formatVersion']],
      [(d: any) => (d.formatVersion = 1.5), ['/formatVersion']],
    ] as const) {
      const document = structuredClone(format1);
      change(document);
      expect(() => readDefinition(document)).toThrow(DefinitionError);
      try {
        readDefinition(document);
      } catch (error) {
        expect((error as DefinitionError).faults.map((fault) => fault.place)).toEqual(
          expect.arrayContaining([...places]),
        );
      }
    }
  });

  it('reads column paths as conditions do', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ minLength: 1, maxLength: 8 }), { minLength: 1, maxLength: 3 }), (path) => {
        expect(readPath(printPath(path))).toEqual(path);
      }),
    );
    for (const text of ['', 'a..b', 'a b', 'a; b', ':member.id']) expect(readPath(text)).toBeNull();
  });
});
