import { findFaults } from '../../sections/definition';
import type { Ceiling } from '../../core/definition/ceilings';
import { describe, expect, it } from 'vitest';
import { person } from '../../test/wells';
import type { PortalDefinition } from '../../core/definition/definition';
import { findTable, type Catalogue, type Table } from '../../core/table/catalogue';
import { builderPerson } from '../../core/access/person';
import { readChoices } from '../sources/mariadb-catalogue';
import { edit } from './write/edit';
import { list } from './read/list';
import { read } from './read/read';
import { recordId } from './view/record-id';
import type { Visit } from './view/visit';
import { tableInfo } from '../columns/column-info';
import { create } from './write/create';
import { remove } from './write/remove';
import { withDeclaredKeys } from '../../core/definition/declared-keys';
import { parseCondition } from '../../core/condition/parse';
import { mendsOf } from '../../core/check/mends';
import { brokenKeys, tryKey } from './facts/declared-keys';
import { plain, source, catalogue, everything, grant, definition, visit, withOddTables } from './odd-tables.fixture';

withOddTables();

describe('columns whose names need quotes', () => {
  it(
    'are seen, edited, made and told of as others are, conflicts and refusals too; choices with a backslash are ' +
      'chosen',
    async () => {
      await plain.query("INSERT INTO odd_names VALUES (1, 'Ada', 3, 'dot', 'plain', 'z')");
      const who = { ...visit(builderPerson), source };
      const paths = ['id', '"first name"', '"and"', '"a.b"', 'state', 'tags'];
      expect((await tableInfo(who, 'odd_names')).columns.map((each) => each.path)).toEqual(paths);
      const record = await read(source, who, 'odd_names', '1');
      expect([Object.keys(record.values), record.editable]).toEqual([paths, paths.slice(1)]);
      const changed = await edit(source, who, 'odd_names', '1', {
        '"first name"': { from: 'Ada', to: 'Bo' },
        '"and"': { from: 3, to: 4 },
        'a.b': { from: 'dot', to: 'point' },
        state: { from: 'plain', to: 'back\\slash' },
        tags: { from: ['z'], to: ['x\\y', 'z'] },
      });
      expect(changed!.values).toEqual({
        id: 1,
        '"first name"': 'Bo',
        '"and"': 4,
        '"a.b"': 'point',
        state: 'back\\slash',
        tags: ['x\\y', 'z'],
      });
      await expect(
        edit(source, who, 'odd_names', '1', { '"first name"': { from: null, to: 'Cy' } }),
      ).rejects.toMatchObject({ fields: { '"first name"': { was: null, now: 'Bo', yours: 'Cy' } } });
      await expect(edit(source, who, 'odd_names', '1', { '"and"': { from: 4, to: 'x' } })).rejects.toMatchObject({
        fields: { '"and"': expect.stringContaining('whole number') },
      });
      expect(
        (await create(source, who, 'odd_names', { id: 2, '"first name"': 'Di', state: "it's" })).record!.values,
      ).toMatchObject({ '"first name"': 'Di', state: "it's" });
      await expect(remove(source, who, 'odd_names', '2', { '"first name"': 'other' })).rejects.toMatchObject({
        fields: { '"first name"': { now: 'Di' } },
      });
      await remove(source, who, 'odd_names', '2', { '"first name"': 'Di' });
      expect(await plain.query('SELECT COUNT(*) n FROM odd_names')).toEqual([{ n: 1 }]);
    },
  );
});

describe('the catalogue of odd tables', () => {
  it('has composite keys, views without one, relations to the same table, and what fills itself', () => {
    const table = (name: string): Table => catalogue.tables.find((each) => each.name === name)!;
    expect(table('pair').key).toEqual(['a', 'b']);
    expect(table('seen').key).toEqual([]);
    expect(table('named').relations).toEqual([
      { name: 'parent_record', column: 'parent', table: 'named', targetColumn: 'code' },
    ]);
    expect(
      table('kinds')
        .columns.filter((each) => each.automatic)
        .map((each) => each.name),
    ).toEqual(['made', 'stamped']);
    expect(table('kinds').columns.find((each) => each.name === 'huge')).toMatchObject({
      min: '0',
      max: '18446744073709551615',
    });
    expect(readChoices("enum('a','it''s','(x,y)')")).toEqual(['a', "it's", '(x,y)']);
  });
});

describe('the gate on odd tables', () => {
  it('reads every type exactly', async () => {
    const record = await read(source, visit(), 'kinds', '1');
    expect(record.values).toEqual({
      tiny: 255,
      huge: 18446744073709551615n,
      exact: '12345678901234567890.0123456789',
      rough: 0.1,
      single: Math.fround(0.1),
      moment: '2026-11-23 10:00:00.25',
      clock: '09:30:00',
      several: ['a', "it's"],
      yes: true,
      raw: '5 bytes',
      made: 256,
    });
    expect(record.editable).not.toContain('made');
  });

  it('saves every type exactly, and sees no conflict in what was not changed', async () => {
    const before = (await read(source, visit(), 'kinds', '1')).values;
    const to = {
      huge: '9007199254740993',
      exact: '-0.0000000001',
      rough: '1e-7',
      moment: '2026-11-24T09:30',
      several: ['c'],
      yes: false,
      tiny: '0',
      clock: '23:59',
    };
    const changes = Object.fromEntries(
      Object.entries(to).map(([name, value]) => [
        name,
        {
          from: JSON.parse(
            JSON.stringify(before[name], (_key, each: unknown) => (typeof each === 'bigint' ? String(each) : each)),
          ),
          to: value,
        },
      ]),
    );
    expect((await edit(source, visit(), 'kinds', '1', changes))!.values).toMatchObject({
      huge: 9007199254740993n,
      exact: '-0.0000000001',
      rough: 1e-7,
      moment: '2026-11-24 09:30:00',
      several: ['c'],
      yes: false,
      tiny: 0,
      clock: '23:59:00',
      made: 1,
    });
  });

  it('walks and opens records by keys of two columns and of text', async () => {
    const ids: string[] = [];
    let after: string | null = null;
    do {
      const page = await list(source, visit(), 'pair', {
        ...everything,
        sort: [{ path: ['note'], descending: true }],
        after,
      });
      ids.push(...page.records.map((record) => record.id!));
      after = page.next;
    } while (after !== null);
    const rows = await plain.query<{ a: string; b: number }[]>(
      'SELECT a, b FROM pair ORDER BY note DESC, a DESC, b DESC',
    );
    expect(ids).toEqual(rows.map((row) => recordId([row.a, row.b])));
    for (const id of ids.filter((each) => !each.startsWith(',')))
      expect((await read(source, visit(), 'pair', id)).id).toBe(id);
    await edit(source, visit(), 'pair', recordId(['a,b', 3]), { note: { from: 'comma', to: 'changed' } });
    expect((await plain.query<{ note: string }[]>('SELECT note FROM pair WHERE b = 3'))[0]!.note).toBe('changed');
    expect((await read(source, visit(), 'named', 'leaf', [['parent_record', 'note']])).values).toEqual({
      'parent_record.note': 'top',
    });
  });

  it('refuses a unique value that is taken and a relation that leads nowhere', async () => {
    const change = (id: string, name: string, from: unknown, to: unknown) =>
      edit(source, visit(), 'named', id, { [name]: { from, to } }).then(
        () => 'done',
        (error: { fields?: object }) => error.fields,
      );
    expect(await change('leaf', 'note', 'low', 'TOP')).toEqual({
      note: 'This value is already taken. Choose another.',
    });
    expect(await change('leaf', 'parent', 'root', 'nowhere')).toEqual({
      parent: 'There is no such record. Choose another.',
    });
    expect(await change('leaf', 'parent', 'root', 'other')).toBe('done');
  });

  it('lists a view for the builder, whole, though its records have no address', async () => {
    const answer = await list(source, visit(builderPerson), 'seen', { ...everything, columns: [['code']], size: 10 });
    expect([answer.total, answer.records.map((record) => record.id)]).toEqual([3, [null, null, null]]);
  });
});

describe('a view without a key', () => {
  it('is opened by the columns that a builder says, once they are tried, and never changed', async () => {
    await plain.query('CREATE VIEW halves AS SELECT code, parent, note FROM named');
    const whole = await source.catalogue(true);
    const table = findTable(whole, 'halves')!;
    const said = (key: string[]) => tryKey(source, whole, definition(), table, key);
    await expect(said(['parent'])).rejects.toMatchObject({
      fields: { key: "parent is empty or the same in several records, so it can't tell them apart." },
    });
    await expect(said(['note'])).rejects.toMatchObject({
      fields: { key: expect.stringContaining('is empty or the same') },
    });
    await expect(said(['nothing'])).rejects.toMatchObject({
      fields: { key: 'halves has no column nothing that can be read.' },
    });
    await said(['code']);
    const given = {
      ...definition(),
      tables: { halves: { key: ['code'] } },
      access: { halves: { desk: grant(['code', 'parent']) } },
    };
    const known: Visit = {
      definition: given,
      catalogue: withDeclaredKeys(whole, given),
      person: person(['desk']),
      moment: new Date(),
    };
    expect(
      (await list(source, known, 'halves', { ...everything, columns: [['code']] })).records.map((record) => record.id),
    ).toEqual(['leaf', 'other', 'root']);
    expect((await read(source, known, 'halves', 'leaf')).editable).toEqual([]);
    await expect(edit(source, known, 'halves', 'leaf', { parent: { from: 'other', to: 'root' } })).rejects.toThrow(
      'You may not change this.',
    );
    expect(await brokenKeys(source, known.catalogue, given)).toEqual([]);
    await plain.query("INSERT INTO pair VALUES ('z', 9, NULL)");
    const wrong = { ...definition(), tables: { seen: { key: ['note'] } } };
    expect(await brokenKeys(source, withDeclaredKeys(whole, wrong), wrong)).toEqual(['seen']);
    // One that names what is gone is no key at all.
    expect(findTable(withDeclaredKeys(whole, { tables: { halves: { key: ['gone'] } } }), 'halves')!.key).toEqual([]);
  });

  it("tells by no address what somebody doesn't see, nor what a ceiling closes", async () => {
    const whole = await source.catalogue(true);
    const base = { ...definition(), tables: { halves: { key: ['code'] } } };
    const asked = (given: PortalDefinition, catalogue: Catalogue): Visit => ({
      definition: given,
      catalogue: withDeclaredKeys(catalogue, given),
      person: person(['desk']),
      moment: new Date(),
    });
    const hidden: PortalDefinition = { ...base, access: { halves: { desk: grant(['note']) } } };
    const masked: PortalDefinition = {
      ...base,
      access: { halves: { desk: grant(['code', 'note']) } },
      masks: [{ id: 'm', table: 'halves', column: 'code', mask: { style: 'all' }, to: ['desk'], exceptRoles: [] }],
    };
    for (const [given, words] of [
      [hidden, 'is hidden from them'],
      [masked, 'is masked for them'],
    ] as const) {
      const visit = asked(given, whole);
      await expect(list(source, visit, 'halves', everything)).rejects.toThrow('There is no such table');
      await expect(read(source, visit, 'halves', 'leaf')).rejects.toThrow('There is no such table');
      const found = findFaults(given, visit.catalogue, []).find((finding) => finding.kind === 'key is not seen')!;
      expect(found.title).toContain(words);
      for (const mend of mendsOf(found, given, visit.catalogue)) {
        const mended = structuredClone(given);
        mend.change(mended);
        expect((await list(source, asked(mended, whole), 'halves', everything)).records).toHaveLength(3);
      }
    }
    // The workplace's own grid is under the ceiling too: a key that it closes is none, and rows beyond it tell nothing.
    const under = (ceiling: Ceiling): Catalogue => ({
      ...whole,
      tables: whole.tables.map((table) => (table.name === 'halves' ? { ...table, ceiling } : table)),
    });
    const closed = under({ columns: { code: 'nothing' } });
    const builder = { ...asked(base, closed), person: builderPerson };
    expect((await list(source, builder, 'halves', everything)).records.map((record) => record.id)).toEqual([
      null,
      null,
      null,
    ]);
    await expect(tryKey(source, closed, base, findTable(closed, 'halves')!, ['code'])).rejects.toMatchObject({
      fields: { key: 'halves has no column code that can be read.' },
    });
    const narrow = under({ where: parseCondition("code = 'leaf'").condition });
    await tryKey(source, narrow, base, findTable(narrow, 'halves')!, ['parent']);
  });
});
