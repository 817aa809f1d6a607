import { firstList } from '../../test/pages';
import { describe, expect, it } from 'vitest';
import { builderPerson } from '../../core/access/person';
import type { Condition } from '../../core/condition/tree';
import type { Sql } from '../../core/sql/sql';
import type { Runner } from '../sources/source';
import { BadQuestion, NotFound } from './view/errors';
import { count, list } from './read/list';
import { read } from './read/read';
import { why } from './review/why';
import {
  plain,
  source,
  catalogue,
  definition,
  everything,
  when,
  member,
  visit,
  number,
  walk,
  withGateTables,
} from './gate.fixture';

withGateTables();

describe('the catalogue', () => {
  it('is read from the database: types, keys, choices, relations', () => {
    const wells = catalogue.tables.find((table) => table.name === 'wells')!;
    expect(wells.key).toEqual(['id']);
    expect(wells.relations).toEqual([{ name: 'owner', column: 'owner_id', table: 'owners', targetColumn: 'id' }]);
    expect(Object.fromEntries(wells.columns.map((column) => [column.name, column.type]))).toMatchObject({
      id: 'whole number',
      code: 'text',
      depth_m: 'decimal',
      drilled_on: 'date',
      state: 'one choice',
      treatment: 'several choices',
    });
    expect(wells.columns.find((column) => column.name === 'treatment')!.choices).toEqual([
      'softener',
      'UV',
      'iron filter',
      'reverse osmosis',
      'chlorination',
    ]);
    expect(
      catalogue.tables
        .find((table) => table.name === 'advisories')!
        .columns.find((column) => column.name === 'published')!.type,
    ).toBe('yes/no');
  });
});

describe('lists', () => {
  it('give two owners disjoint wells, and all owners together every well that has an owner', async () => {
    const seen = new Map<string, number>();
    for (let owner = 1; owner <= 420; owner++) {
      const answer = await list(source, visit(await member({ owners: owner })), 'wells', everything);
      expect(answer.total).toBe(answer.records.length);
      for (const { id } of answer.records) {
        expect(seen.get(id!), `well ${id} of owners ${owner} and ${seen.get(id!)}`).toBeUndefined();
        seen.set(id!, owner);
      }
    }
    const owned = await plain.query<{ id: number; owner_id: number }[]>(
      'SELECT id, owner_id FROM wells WHERE owner_id IS NOT NULL',
    );
    expect([...seen].sort()).toEqual(owned.map((well) => [String(well.id), well.owner_id]).sort());
    expect(await number('wells WHERE owner_id IS NULL')).toBeGreaterThan(0);
  });

  it('count as plain SQL does, through relations too', async () => {
    expect(await count(source, visit(await member({ samplers: 9 }, 9)), 'visits')).toBe(
      await number('visits WHERE sampler_id = 9 OR planned_by = 9'),
    );
    expect(await count(source, visit(await member({ owners: 17 })), 'visits')).toBe(
      await number('visits v JOIN wells w ON w.id = v.well_id WHERE w.owner_id = 17'),
    );
    expect(await count(source, visit(await member({ owners: 17 })), 'advisories')).toBe(
      await number("advisories WHERE published AND (valid_until IS NULL OR valid_until >= '2026-11-23')"),
    );
    expect(await count(source, visit(builderPerson), 'results')).toBe(45_000);
  });

  it.each([[['planned_for']], [['state', 'planned_for']], [['well.code']], [['seal_number']], [[]]])(
    'walk every row once in the order of %j, forwards and backwards',
    async (columns) => {
      const asked = visit(await member({ samplers: 9 }, 9));
      for (const descending of [false, true]) {
        const sort = columns.map((column) => ({ path: column.split('.'), descending }));
        const ids = await walk(asked, 'visits', { sort });
        const order = [...columns.map((column) => (column === 'well.code' ? 'w.code' : `v.${column}`)), 'v.id']
          .map((column) => `${column} ${descending && columns.length ? 'DESC' : ''}`)
          .join(', ');
        const rows = await plain.query<{ id: number }[]>(
          'SELECT v.id FROM visits v JOIN wells w ON w.id = v.well_id WHERE v.sampler_id = 9 OR v.planned_by = ' +
            `9 ORDER BY ${order}`,
        );
        expect(ids).toEqual(rows.map((each) => String(each.id)));
      }
      const sort = columns.map((column) => ({ path: column.split('.'), descending: false }));
      const first = await list(source, asked, 'visits', { ...everything, size: 10, sort });
      const second = await list(source, asked, 'visits', { ...everything, size: 10, sort, after: first.next });
      const back = await list(source, asked, 'visits', { ...everything, size: 10, sort, before: second.previous });
      expect([back.records, back.previous]).toEqual([first.records, null]);
    },
  );

  it('filter and search on the view, as text is compared in the table', async () => {
    const asked = visit(await member({ samplers: 9 }, 9));
    const filtered = await walk(asked, 'visits', {
      where: [when("state = 'planned' AND planned_for >= '2026-11-23'")],
    });
    expect(filtered.length).toBe(
      await number(
        "visits WHERE (sampler_id = 9 OR planned_by = 9) AND state = 'planned' AND planned_for >= '2026-11-23'",
      ),
    );
    const found = await walk(asked, 'visits', { columns: [['well', 'parish'], ['access_note']], search: 'dog IN' });
    expect(found.length).toBe(
      await number("visits WHERE (sampler_id = 9 OR planned_by = 9) AND access_note LIKE '%dog in%'"),
    );
    expect(await walk(asked, 'visits', { columns: [['access_note']], search: '%' })).toEqual([]);
  });

  it("keep to a page's own filter, with the member's facts in it", async () => {
    const both = visit(await member({ owners: 42, samplers: 4 }, 4));
    const [wells, visits] = ['my-wells', 'my-visits'].map((id) =>
      firstList(definition.pages.find((page) => page.id === id)),
    );
    expect(await walk(both, 'wells', { where: [wells!.where as Condition] })).toHaveLength(
      await number('wells WHERE owner_id = 42'),
    );
    expect(await walk(both, 'visits', { where: [visits!.where as Condition] })).toHaveLength(
      await number('visits WHERE sampler_id = 4 OR planned_by = 4'),
    );
  });

  it("look through relations by the person's view of the other table", async () => {
    const sampler = await member({ samplers: 9 }, 9);
    const answer = await list(source, visit(sampler), 'visits', {
      ...everything,
      columns: [
        ['well', 'code'],
        ['well', 'owner', 'phone'],
        ['well', 'owner', 'iban'],
      ],
    });
    const district = String(sampler.rows.samplers!.district);
    const rows = await plain.query<{ id: number; code: string; phone: string; parish: string }[]>(
      'SELECT v.id, w.code, o.phone, o.parish FROM visits v JOIN wells w ON w.id = v.well_id LEFT JOIN owners ' +
        'o ON o.id = w.owner_id WHERE v.sampler_id = 9 OR v.planned_by = 9',
    );
    let outside = 0;
    for (const record of answer.records) {
      const row = rows.find((each) => String(each.id) === record.id)!;
      expect(record.values['well.code']).toBe(row.code);
      expect(record.values['well.owner.phone']).toBe(row.parish === district ? row.phone : undefined);
      expect('well.owner.iban' in record.values).toBe(false);
      if (row.parish !== district) outside++;
    }
    expect(outside).toBeGreaterThan(0);
  });
});

describe('a person with two roles', () => {
  it('gets the union of both cell by cell, against a plain reading of the rules', async () => {
    const both = await member({ owners: 42, samplers: 4 }, 4);
    const columns = ['access_note', 'fee', 'paid', 'seal_number', 'sampler_id', 'state'];
    const ids = await walk(visit(both), 'visits', {});
    const rows = await plain.query<Record<string, unknown>[]>(
      'SELECT v.*, w.owner_id FROM visits v JOIN wells w ON w.id = v.well_id WHERE w.owner_id = 42 OR ' +
        'v.sampler_id = 4 OR v.planned_by = 4 ORDER BY v.id',
    );
    expect(ids).toEqual(rows.map((row) => String(row.id)));
    const seen = {
      owner: ['access_note', 'fee', 'paid', 'state'],
      sampler: ['access_note', 'seal_number', 'sampler_id', 'state'],
    };
    for (const row of rows) {
      const record = await read(
        source,
        visit(both),
        'visits',
        String(row.id),
        columns.map((column) => [column]),
      );
      const asOwner = row.owner_id === 42;
      const asSampler = row.sampler_id === 4 || row.planned_by === 4;
      const expected = columns.filter(
        (column) => (asOwner && seen.owner.includes(column)) || (asSampler && seen.sampler.includes(column)),
      );
      expect([row.id, Object.keys(record.values).sort()]).toEqual([row.id, expected.sort()]);
    }
    // What one lens hides can't be asked for in the rows that only that lens has.
    const paid = await walk(visit(both), 'visits', { where: [when('paid = TRUE')] });
    expect(paid).toEqual(rows.filter((row) => row.owner_id === 42 && row.paid === 1).map((row) => String(row.id)));
    const unpaid = await walk(visit(both), 'visits', { where: [when('NOT (paid = TRUE)')] });
    expect(unpaid).toEqual(rows.filter((row) => row.owner_id === 42 && row.paid === 0).map((row) => String(row.id)));
  });
});

describe('masked columns', () => {
  const open = {
    ...definition,
    access: {
      ...definition.access,
      owners: { well_owner: { see: { where: 'every row' as const, columns: ['name', 'birth_date', 'tax_number'] } } },
    },
  };

  it('carry the mask only, and are asked by what it shows', async () => {
    const asked = visit(await member({ owners: 17 }), open);
    const [record] = (
      await list(source, asked, 'owners', { ...everything, size: 1, columns: [['birth_date'], ['tax_number']] })
    ).records;
    const [row] = await plain.query<{ y: number; t: string }[]>(
      'SELECT YEAR(birth_date) y, tax_number t FROM owners WHERE id = 1',
    );
    expect(record).toEqual({
      id: '1',
      values: { birth_date: String(row!.y), tax_number: `••••••${row!.t.slice(-3)}` },
      masked: ['birth_date', 'tax_number'],
    });
    expect((await walk(asked, 'owners', { where: [when('birth_date = 1960')] })).length).toBe(
      await number('owners WHERE YEAR(birth_date) = 1960'),
    );
    const sorted = await walk(asked, 'owners', { sort: [{ path: ['birth_date'], descending: false }] });
    const expected = await plain.query<{ id: number }[]>('SELECT id FROM owners ORDER BY YEAR(birth_date), id');
    expect(sorted).toEqual(expected.map((each) => String(each.id)));
  });

  it("can't be sorted, filtered or searched by where nothing orderly is shown", async () => {
    const asked = visit(await member({ owners: 17 }), open);
    await expect(walk(asked, 'owners', { sort: [{ path: ['tax_number'], descending: false }] })).rejects.toThrow(
      BadQuestion,
    );
    await expect(walk(asked, 'owners', { where: [when("tax_number LIKE '4%'")] })).rejects.toThrow(
      'there is no column tax_number in owners',
    );
    await expect(walk(asked, 'owners', { where: [when("birth_date = '1960-05-05'")] })).rejects.toThrow(BadQuestion);
    const [row] = await plain.query<{ t: string }[]>('SELECT tax_number t FROM owners WHERE id = 1');
    expect(await walk(asked, 'owners', { columns: [['tax_number']], search: row!.t.slice(0, 5) })).toEqual([]);
    await expect(walk(asked, 'owners', { where: [when("iban = 'x'")] })).rejects.toThrow(
      'there is no column iban in owners',
    );
    await expect(walk(asked, 'owners', { where: [when("no_such_column = 'x'")] })).rejects.toThrow(
      'there is no column no_such_column in owners',
    );
  });
});

describe('what is not in the view', () => {
  it('is not found, in the same words as what was never there', async () => {
    const ines = visit(await member({ owners: 17 }));
    const words = await Promise.all(
      ['1', '999999', 'x', '1,2', '%', '1e0'].map((id) =>
        read(source, ines, 'wells', id).catch((error: unknown) => error),
      ),
    );
    for (const word of words) expect(word).toBeInstanceOf(NotFound);
    expect(new Set(words.map((word) => (word as Error).message)).size).toBe(1);
    await expect(list(source, ines, 'labs', everything)).rejects.toThrow(NotFound);
    await expect(list(source, ines, 'no_such_table', everything)).rejects.toThrow(
      (await list(source, ines, 'labs', everything).catch((error: Error) => error.message)) as string,
    );
    await expect(list(source, visit({ ...ines.person, roles: [] }), 'wells', everything)).rejects.toThrow(NotFound);
    expect((await list(source, visit({ ...ines.person, rows: {} }), 'wells', everything)).records).toEqual([]);
  });

  it("can't be reached by a crafted cursor", async () => {
    const ines = visit(await member({ owners: 17 }));
    const crafted = (value: unknown) => Buffer.from(JSON.stringify(value)).toString('base64url');
    const answer = await list(source, ines, 'wells', { ...everything, after: crafted(['0']) });
    expect(answer.records.map((record) => record.id)).toEqual(['231', '232', '419']);
    for (const cursor of [
      'x',
      crafted(['1 OR 1=1']),
      crafted([]),
      crafted(['1', '2']),
      crafted({}),
      crafted([{ a: 1 }]),
    ]) {
      await expect(list(source, ines, 'wells', { ...everything, after: cursor })).rejects.toThrow(BadQuestion);
    }
  });

  it("never gets a crafted value or name into a statement's text", async () => {
    const texts: string[] = [];
    const spy: Runner = {
      rows: (statement: Sql) => {
        texts.push(statement.text);
        return source.rows(statement);
      },
      write: (statement) => source.write(statement),
    };
    const nasty = '\' OR 1=1 -- `x` "y"';
    const ines = visit(await member({ owners: 17 }));
    await list(spy, ines, 'wells', {
      ...everything,
      columns: [['code'], [nasty], ['owner', nasty]],
      search: nasty,
      where: [when(`code = '${nasty.replaceAll("'", "''")}'`)],
    });
    await expect(list(spy, ines, nasty, everything)).rejects.toThrow(NotFound);
    await expect(
      list(spy, ines, 'wells', { ...everything, sort: [{ path: [nasty], descending: false }] }),
    ).rejects.toThrow(BadQuestion);
    await expect(read(spy, ines, 'wells', nasty)).rejects.toThrow(NotFound);
    expect(texts.length).toBeGreaterThan(0);
    for (const text of texts) expect(text).not.toContain('OR 1=1');
    for (const text of texts) expect(text).not.toMatch(/'|"/);
  });
});

describe('why', () => {
  it('says of every visit and column what the gate does', async () => {
    const both = visit(await member({ owners: 42, samplers: 4 }, 4));
    const ids = (
      await plain.query<{ id: number }[]>('SELECT id FROM visits WHERE id % 29 = 0 OR sampler_id = 4 LIMIT 120')
    ).map((row) => String(row.id));
    let out = 0;
    for (const id of ids) {
      const record = await read(source, both, 'visits', id).catch(() => null);
      for (const column of ['fee', 'seal_number', 'access_note']) {
        const answer = await why(source, both, 'visits', id, column);
        expect([id, column, answer.inView, answer.cell!.level !== 'hidden', answer.editable]).toEqual([
          id,
          column,
          record !== null,
          record !== null && column in record.values,
          record?.editable.includes(column) ?? false,
        ]);
      }
      if (!record) out++;
    }
    expect(out).toBeGreaterThan(10);
    expect(ids.length - out).toBeGreaterThan(10);
  });
});
