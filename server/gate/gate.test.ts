import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { demoDefinition } from '../../demo/definition';
import { loadTables } from '../../demo/load';
import { freshSchema } from '../../test/tables';
import { builderPerson, type Person } from '../../core/access/person';
import { rolesOfRows } from '../../core/access/roster-roles';
import { parseCondition } from '../../core/condition/parse';
import type { Condition } from '../../core/condition/tree';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import type { Sql } from '../../core/sql/sql';
import type { Runner } from '../sources/source';
import { BadQuestion, NotFound } from './view/errors';
import { edit } from './write/edit';
import { count, list, type ListQuestion } from './read/list';
import { read } from './read/read';
import { rosterRow } from './facts/roster';
import type { Visit } from './view/visit';
import { why } from './review/why';

/** Numbers beside the gate's come from plain SQL written here, on a connection of its own. */
let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;
const definition = demoDefinition('gate');
const everything: ListQuestion = { columns: [], sort: [], where: [], search: '', after: null, before: null, size: 200 };
const when = (text: string) => parseCondition(text).condition;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'gate');
  await loadTables(inject('database'), 'gate');
  source = new MariadbSource(inject('database'), 'gate');
  catalogue = await source.catalogue();
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

async function member(rows: Record<string, number>, id = 1_000_000): Promise<Person> {
  const person: Person = { kind: 'member', id, email: 'x@example.org', organisation: null, roles: [], rows: {} };
  for (const [table, key] of Object.entries(rows)) {
    const roster = definition.rosters.find((each) => each.table === table)!;
    person.rows[table] = (await rosterRow(source, catalogue, roster, String(key)))!;
    person.roles = rolesOfRows(definition, catalogue, person.rows);
  }
  return person;
}

const visit = (person: Person, changed: PortalDefinition = definition): Visit => ({
  definition: changed,
  catalogue,
  person,
  moment: new Date('2026-11-23T12:00:00Z'),
});

const number = async (text: string): Promise<number> =>
  Number((await plain.query<{ n: number }[]>(`SELECT COUNT(*) n FROM ${text}`))[0]!.n);

/** Walks a list page by page to its end. */
async function walk(asked: Visit, table: string, question: Partial<ListQuestion>): Promise<string[]> {
  const ids: string[] = [];
  let after: string | null = null;
  do {
    const page = await list(source, asked, table, { ...everything, size: 7, ...question, after });
    ids.push(...page.records.map((record) => record.id!));
    after = page.next;
  } while (after !== null);
  return ids;
}

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
    const [wells, visits] = ['my-wells', 'my-visits'].map(
      (id) => definition.pages.find((page) => page.id === id)!.sections[0]!,
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

describe('edits', () => {
  const change = async (
    person: Person,
    table: string,
    id: string,
    changes: Record<string, [unknown, unknown]>,
    changed = definition,
  ) =>
    edit(
      source,
      visit(person, changed),
      table,
      id,
      Object.fromEntries(Object.entries(changes).map(([column, [from, to]]) => [column, { from, to }])),
    );
  const fault = async (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (error: Error & { fields?: unknown }) => [error.constructor.name, error.fields],
    );
  const cell = async (table: string, column: string, id: number) =>
    (await plain.query<Record<string, unknown>[]>(`SELECT ${column} c FROM ${table} WHERE id = ?`, [id]))[0]!.c;

  it('change what is editable and give the record back as it is seen', async () => {
    const ines = await member({ owners: 17 });
    const before = await read(source, visit(ines), 'owners', '17');
    expect(before.editable).toEqual(['phone', 'postal_address', 'contact_by']);
    const after = await change(ines, 'owners', '17', { phone: [before.values.phone, '01632 000111'] });
    expect(after!.values).toEqual({ ...before.values, phone: '01632 000111' });
    expect(await cell('owners', 'phone', 17)).toBe('01632 000111');
    const wells = await change(ines, 'wells', '231', {
      treatment: [(await read(source, visit(ines), 'wells', '231')).values.treatment, ['UV', 'softener']],
    });
    expect(wells!.values.treatment).toEqual(['softener', 'UV']);
  });

  it('refuse every write on a foreign record, in every table and column', async () => {
    const ines = await member({ owners: 17 });
    const tables = ['owners', 'wells', 'visits', 'advisories', 'samples', 'analytes', 'samplers'];
    const sums = async () =>
      Promise.all(
        tables.map(
          async (table) => (await plain.query<Record<string, unknown>[]>(`CHECKSUM TABLE ${table}`))[0]!.Checksum,
        ),
      );
    const before = await sums();
    let tried = 0;
    for (const table of tables) {
      const known = catalogue.tables.find((each) => each.name === table)!;
      const own =
        {
          owners: 'id <> 17',
          wells: 'owner_id IS NULL OR owner_id <> 17',
          visits: 'well_id NOT IN (SELECT id FROM wells WHERE owner_id = 17)',
          samples: 'visit_id NOT IN (SELECT v.id FROM visits v JOIN wells w ON w.id = v.well_id WHERE w.owner_id = 17)',
        }[table] ?? 'TRUE';
      const rows = await plain.query<Record<string, unknown>[]>(`SELECT * FROM ${table} WHERE ${own} LIMIT 12`);
      for (const row of rows) {
        for (const column of known.columns) {
          const outcome = await fault(
            change(ines, table, String(row[known.key[0]!]), { [column.name]: [row[column.name], row[column.name]] }),
          );
          const expected =
            ['advisories', 'analytes'].includes(table) && outcome !== 'done' && outcome[0] === 'Refused'
              ? 'Refused'
              : 'NotFound';
          expect([table, column.name, outcome === 'done' ? 'done' : outcome[0]]).toEqual([
            table,
            column.name,
            expected,
          ]);
          tried++;
        }
      }
    }
    expect(tried).toBeGreaterThan(400);
    expect(await sums()).toEqual(before);
  });

  it('refuse columns that are masked, hidden, keys or not there in the same words', async () => {
    const ines = await member({ owners: 17 });
    for (const column of ['tax_number', 'birth_date', 'id', 'name', 'no_such_column', '__proto__x']) {
      expect(await fault(change(ines, 'owners', '17', { phone: ['x', 'y'], [column]: ['x', 'y'] }))).toEqual([
        'Refused',
        { [column]: "This can't be changed by you." },
      ]);
    }
  });

  it('say beside each column what is wrong, and save nothing of it', async () => {
    const ines = await member({ owners: 17 });
    const phone = await cell('owners', 'phone', 17);
    expect(
      await fault(
        change(ines, 'owners', '17', {
          phone: [phone, '1'.repeat(31)],
          contact_by: ['letter', 'pigeon'],
          postal_address: ['x', null],
        }),
      ),
    ).toEqual([
      'InvalidValues',
      {
        phone: 'This has 31 characters; 30 fit. Shorten it.',
        contact_by: 'Choose one of: e-mail, phone, letter.',
        postal_address: 'This needs a value.',
      },
    ]);
    expect(await cell('owners', 'phone', 17)).toBe(phone);
    const mara = await member({ samplers: 9 }, 9);
    const [taken] = await plain.query<{ seal_number: string }[]>(
      'SELECT seal_number FROM visits WHERE seal_number IS NOT NULL AND sampler_id <> 9 LIMIT 1',
    );
    const [mine] = await plain.query<{ id: number; seal_number: string | null }[]>(
      'SELECT id, seal_number FROM visits WHERE sampler_id = 9 LIMIT 1',
    );
    expect(
      await fault(change(mara, 'visits', String(mine!.id), { seal_number: [mine!.seal_number, taken!.seal_number] })),
    ).toEqual(['InvalidValues', { seal_number: 'This value is already taken. Choose another.' }]);
  });

  it('report a change in between with all three values, and let the same change pass', async () => {
    const ines = await member({ owners: 17 });
    const was = await cell('owners', 'phone', 17);
    await plain.query("UPDATE owners SET phone = 'theirs' WHERE id = 17");
    expect(await fault(change(ines, 'owners', '17', { phone: [was, 'mine'] }))).toEqual([
      'Conflict',
      { phone: { was, now: 'theirs', yours: 'mine' } },
    ]);
    expect(await cell('owners', 'phone', 17)).toBe('theirs');
    expect(await fault(change(ines, 'owners', '17', { phone: [was, 'theirs'] }))).toBe('done');
    expect(await fault(change(ines, 'owners', '17', { phone: ['theirs', 'mine'] }))).toBe('done');
  });

  it('let exactly one of two people at once win', async () => {
    const ines = await member({ owners: 17 });
    const was = await cell('owners', 'phone', 17);
    const outcomes = await Promise.all(
      Array.from({ length: 8 }, (_, i) => fault(change(ines, 'owners', '17', { phone: [was, `at once ${i}`] }))),
    );
    expect(outcomes.filter((outcome) => outcome === 'done')).toHaveLength(1);
    expect(outcomes.filter((outcome) => Array.isArray(outcome) && outcome[0] === 'Conflict')).toHaveLength(7);
  });

  it('keep a record within reach, and relations to records in view', async () => {
    const loose: PortalDefinition = {
      ...definition,
      lifecycles: [],
      access: {
        owners: definition.access.owners!,
        wells: {
          well_owner: {
            see: definition.access.wells!.well_owner!.see!,
            edit: { where: 'as seen', columns: ['state', 'owner_id'] },
          },
        },
        visits: {
          sampler: {
            see: { where: when('sampler_id = :member.samplers.id'), columns: ['well_id', 'sampler_id', 'state'] },
            edit: { where: when("state = 'planned'"), columns: ['well_id', 'sampler_id', 'state'] },
          },
        },
      },
    };
    const ines = await member({ owners: 17 });
    // owner 18 is not in her view of owners, so that relation is as good as none.
    expect(await fault(change(ines, 'wells', '231', { owner_id: [17, 18] }, loose))).toEqual([
      'InvalidValues',
      { owner_id: 'There is no such record. Choose another.' },
    ]);
    expect(await fault(change(ines, 'wells', '231', { owner_id: [17, 999_999] }, loose))).toEqual([
      'InvalidValues',
      { owner_id: 'There is no such record. Choose another.' },
    ]);
    expect(await fault(change(ines, 'wells', '231', { owner_id: [17, null] }, loose))).toEqual(['Refused', {}]);
    expect(await cell('wells', 'owner_id', 231)).toBe(17);
    const mara = await member({ samplers: 9 }, 9);
    const [planned] = await plain.query<{ id: number }[]>(
      "SELECT id FROM visits WHERE sampler_id = 9 AND state = 'planned' LIMIT 1",
    );
    expect(await fault(change(mara, 'visits', String(planned!.id), { state: ['planned', 'reported'] }, loose))).toEqual(
      ['Refused', {}],
    );
    expect(await cell('visits', 'state', planned!.id)).toBe('planned');
    const [reported] = await plain.query<{ id: number }[]>(
      "SELECT id FROM visits WHERE sampler_id = 9 AND state = 'reported' LIMIT 1",
    );
    expect(
      await fault(change(mara, 'visits', String(reported!.id), { state: ['reported', 'planned'] }, loose)),
    ).toEqual(['Refused', { state: "This can't be changed by you." }]);
  });
});
