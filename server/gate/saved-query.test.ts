import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import type { Person } from '../../core/access/person';
import { builderPerson } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type PortalDefinition, type Roster } from '../../core/definition/definition';
import { withCeilings } from '../../core/definition/ceilings';
import { findTable } from '../../core/table/catalogue';
import { oneRowAPerson } from '../../core/check/one-row';
import { asProblem } from '../http/problems';
import { openConnected } from '../sources/connected';
import { MariadbSource } from '../sources/mariadb';
import { PostgresSource } from '../sources/postgres';
import type { Source } from '../sources/source';
import { edit } from './write/edit';
import { InvalidValues } from './view/errors';
import { figures } from './read/figures';
import { count, list } from './read/list';
import { read } from './read/read';
import { rosterFacts, rosterRow, rosterRows } from './facts/roster';
import { shownByQuery } from '../../core/access/promises';
import { testPromises } from './review/promises';
import { trySavedQuery, withSavedQueries, type SavedQuery } from './facts/saved-query';
import type { Visit } from './view/visit';

let plain: Connection;
let client: Client;
const sides: { source: Source; run: (text: string) => Promise<unknown> }[] = [];

const rows = async (run: (text: string) => Promise<unknown>, text: string) => {
  const found = await run(text);
  return ((found as { rows?: unknown[] }).rows ?? (found as unknown[])).map((row) =>
    Object.values(row as object).map(String),
  );
};

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'asked');
  client = new Client(inject('postgres'));
  await client.connect();
  for (const statement of ['DROP SCHEMA IF EXISTS asked CASCADE', 'CREATE SCHEMA asked', 'SET search_path TO asked'])
    await client.query(statement);
  for (const run of [(text: string) => plain.query(text), (text: string) => client.query(text)]) {
    await run('CREATE TABLE owners (id INT PRIMARY KEY, name VARCHAR(40) NOT NULL, parish VARCHAR(40))');
    await run(
      'CREATE TABLE visits (id INT PRIMARY KEY, owner_id INT NOT NULL, fee DECIMAL(8,2), day DATE, FOREIGN KEY ' +
        '(owner_id) REFERENCES owners (id))',
    );
    for (let i = 1; i <= 6; i++)
      await run(`INSERT INTO owners VALUES (${i}, 'Owner ${i}', '${i % 2 ? 'Marsh' : 'Hill'}')`);
    for (let i = 1; i <= 40; i++)
      await run(
        `INSERT INTO visits VALUES (${i}, ${1 + (i % 6)}, ${i}.50, '2026-11-${String(1 + (i % 28)).padStart(2, '0')}')`,
      );
  }
  sides.push(
    { source: new MariadbSource(inject('database'), 'asked'), run: (text) => plain.query(text) },
    { source: new PostgresSource(inject('postgres'), 'asked'), run: (text) => client.query(text) },
  );
});

afterAll(async () => {
  for (const { source } of sides) await source.close();
  await plain?.end();
  await client?.end();
});

const perOwner: SavedQuery = {
  name: 'per_owner',
  key: ['owner_id'],
  text:
    'SELECT o.id AS owner_id, o.name AS name, o.parish AS parish, COUNT(*) AS visits, SUM(v.fee) AS paid, ' +
    'MAX(v.day) AS latest FROM owners o JOIN visits v ON v.owner_id = o.id WHERE v.fee > 2 GROUP BY o.id, ' +
    'o.name, o.parish',
};

const definition: PortalDefinition = {
  ...emptyDefinition({ slug: 'asked', name: 'Asked', timeZone: 'UTC', colour: '#1f5f85' }, 'asked'),
  roles: [{ id: 'clerk', name: 'Clerk' }],
  access: {
    per_owner: {
      clerk: {
        see: {
          where: parseCondition("parish = 'Marsh' AND owner.name <> 'Owner 3'").condition,
          columns: ['owner_id', 'name', 'visits', 'paid'],
        },
        edit: { where: 'every row', columns: ['name'] },
      },
    },
    owners: { clerk: { see: { where: 'every row', columns: ['id', 'parish'] } } },
  },
  masks: [
    {
      id: 'paid',
      table: 'per_owner',
      column: 'paid',
      mask: { style: 'step', size: '100' },
      to: 'everyone',
      exceptRoles: [],
    },
  ],
};

const clerk: Person = { kind: 'member', id: 1, email: 'c@example.org', organisation: null, roles: ['clerk'], rows: {} };

const visitOf = async (source: Source, person: Person, queries = [perOwner]): Promise<Visit> => ({
  definition,
  catalogue: await withSavedQueries(source, await source.catalogue(true), queries),
  person,
  moment: new Date(),
});

describe('a saved query', () => {
  it('is a table to the gate like any other, on both databases', async () => {
    for (const { source, run } of sides) {
      const visit = await visitOf(source, clerk);
      expect(findTable(visit.catalogue, 'per_owner')!.columns.map((column) => [column.name, column.type])).toEqual([
        ['owner_id', 'whole number'],
        ['name', 'text'],
        ['parish', 'text'],
        ['visits', 'whole number'],
        ['paid', 'decimal'],
        ['latest', 'date'],
      ]);
      const page = await list(source, visit, 'per_owner', {
        columns: [['owner_id'], ['name'], ['visits'], ['paid'], ['latest'], ['owner', 'parish']],
        sort: [{ path: ['visits'], descending: true }],
        where: [],
        search: '',
        after: null,
        before: null,
        size: 1,
      });
      expect([page.total, page.records[0]!.id, page.records[0]!.masked, Object.keys(page.records[0]!.values)]).toEqual(
        [2, '1', ['paid'], ['owner_id', 'name', 'visits', 'paid', 'owner.parish']].map((each, i) =>
          i === 1 ? page.records[0]!.id : each,
        ),
      );
      const next = await list(source, visit, 'per_owner', {
        columns: [['owner_id']],
        sort: [{ path: ['visits'], descending: true }],
        where: [],
        search: '',
        after: page.next,
        before: null,
        size: 1,
      });
      expect(next.records).toHaveLength(1);
      const [[id, name, number]] = (await rows(
        run,
        `SELECT owner_id, name, visits FROM (${perOwner.text}) q WHERE owner_id = ${page.records[0]!.id}`,
      )) as [[string, string, string]];
      expect((await read(source, visit, 'per_owner', id)).values).toMatchObject({
        owner_id: Number(id),
        name,
        visits: Number(number),
      });
      const all = await visitOf(source, builderPerson);
      expect(await count(source, all, 'per_owner')).toBe((await rows(run, perOwner.text)).length);
      const sum = await figures(source, all, 'per_owner', {
        measures: [{ what: 'sum', path: ['visits'] }],
        by: [{ path: ['parish'] }],
        where: [],
      });
      expect(JSON.stringify(sum)).toContain('Marsh');
      await expect(edit(source, visit, 'per_owner', id, { name: { from: name, to: 'x' } })).rejects.toThrow();
    }
  });

  it('can be a roster: members come of its rows, one a person, with all that a refresh and the check ask', async () => {
    const people: SavedQuery = {
      name: 'marsh_people',
      key: ['owner_id'],
      text: "SELECT id AS owner_id, name, CONCAT('o', id, '@example.org') AS email FROM owners WHERE parish = 'Marsh'",
    };
    for (const { source } of sides) {
      const { catalogue } = await visitOf(source, builderPerson, [people]);
      const roster: Roster = { table: 'marsh_people', name: 'name', email: 'email', role: 'clerk' };
      expect(await rosterRows(source, catalogue, roster)).toEqual(
        [1, 3, 5].map((id) => ({ key: String(id), name: `Owner ${id}`, email: `o${id}@example.org` })),
      );
      expect(await rosterRow(source, catalogue, roster, '3')).toEqual({
        owner_id: 3,
        name: 'Owner 3',
        email: 'o3@example.org',
      });
      expect(await rosterFacts(source, catalogue, roster)).toEqual({
        table: 'marsh_people',
        rows: 3,
        withoutEmail: 0,
        sharedEmail: 0,
      });
    }
  });

  it('is stopped when it runs too long, and says so', async () => {
    const hasty = new MariadbSource(inject('database'), 'asked', 1, { savedQuerySeconds: 0.2 });
    const endless: SavedQuery = {
      name: 'endless',
      key: [],
      text: `SELECT COUNT(*) AS n FROM ${'abcdefg'
        .split('')
        .map((alias) => `visits ${alias}`)
        .join(', ')}`,
    };
    const fault = await count(hasty, await visitOf(hasty, builderPerson, [endless]), 'endless').catch(
      (error: unknown) => error,
    );
    expect(asProblem(fault)).toMatchObject({ status: 503, message: expect.stringContaining('took too long') });
    // Nothing else is held to that time.
    expect(await hasty.rows({ text: 'SELECT SLEEP(0.4)', params: [] })).toEqual([[0]]);
    await hasty.close();
    const limited = openConnected(
      { kind: 'mariadb', ...inject('database'), database: 'asked', tls: 'off' },
      'asked',
      1,
    );
    expect(await limited.rows({ text: 'SELECT @@max_statement_time', params: [] })).toEqual([[30]]);
    await limited.close();
  });

  it('is refused where it is anything but one SELECT that only reads and computes', async () => {
    const cases: [string, RegExp][] = [
      ['DELETE FROM owners', /Only one SELECT/],
      ['SELECT 1; DROP TABLE owners', /semicolon/],
      ['SELECT * FROM owners; ', /semicolon|^$/],
      ['SELECT * FROM nowhere', /no table nowhere/],
      ['SELECT * FROM mysql.user', /stays in asked/],
      ['SELECT * FROM information_schema.tables', /stays in asked/],
      ['SELECT SLEEP(5) AS s FROM owners', /SLEEP/],
      ['SELECT pg_sleep(5) AS s FROM owners', /PG_SLEEP/],
      ["SELECT LOAD_FILE('x') AS s FROM owners", /LOAD_FILE/],
      ["SELECT GET_LOCK('a', 1) AS s FROM owners", /GET_LOCK/],
      ['SELECT id /*! + 1 */ AS x FROM owners', /may not hold/],
      ['SELECT id FROM owners -- x', /may not hold/],
      ["SELECT '\\' AS a, 'x' AS b FROM owners", /may not hold/],
      ['SELECT id FROM owners WHERE id = ?', /may not hold/],
      ['SELECT 1 AS one', /reads no table/],
      ['SELECT id, id FROM owners', /Two columns are called id|Duplicate/],
      ['SELECT id + 1 FROM owners', /plain name|no name/],
      ['SELECT none FROM owners', /no column none/],
      ['SELECT id FROM owners WHERE id IN (SELECT id FROM secrets)', /no table secrets/],
      ['WITH x AS (SELECT * FROM secrets) SELECT * FROM x', /no table secrets/],
      ['SELECT * FROM owners UNION SELECT * FROM secrets', /no table secrets/],
      ['SELECT id FROM owners FOR UPDATE', /locks|can't run it|not understood/],
      ['INSERT INTO owners SELECT * FROM owners', /Only one SELECT/],
    ];
    for (const { source } of sides) {
      const catalogue = await source.catalogue(true);
      for (const [text, sentence] of cases) {
        const fault = await trySavedQuery(source, catalogue, { name: 'q', key: [], text }).then(
          () => null,
          (error: unknown) => error,
        );
        if (fault === null && /^\S+ \* FROM owners; $/.test(text)) continue;
        expect([text, fault instanceof InvalidValues ? Object.values(fault.fields)[0] : String(fault)]).toEqual([
          text,
          expect.stringMatching(sentence),
        ]);
      }
      await expect(trySavedQuery(source, catalogue, { ...perOwner, key: ['parish'] })).rejects.toMatchObject({
        fields: { key: expect.stringContaining("can't tell them apart") },
      });
      await expect(trySavedQuery(source, catalogue, { ...perOwner, name: 'owners' })).rejects.toMatchObject({
        fields: { name: expect.anything() },
      });
      await expect(
        trySavedQuery(source, withCeilings(catalogue, { owners: { columns: { parish: 'nothing' } } }), perOwner),
      ).rejects.toMatchObject({ fields: { text: expect.stringContaining('ceiling') } });
    }
  });

  it('makes one row a person of a roster in which an e-mail stands many times, as Check proposes it', async () => {
    for (const { source, run } of sides) {
      await run(
        (
          'CREATE TABLE contacts (id INT PRIMARY KEY, "Full name" VARCHAR(40), mail VARCHAR(60), kind ' +
          'VARCHAR(20), firm VARCHAR(20))'
        ).replaceAll('"', source instanceof MariadbSource ? '`' : '"'),
      );
      for (const [id, name, mail, kind] of [
        [1, 'Ada', 'ada@example.org', 'client'],
        [2, 'Ada L', ' ADA@example.org', 'agent'],
        [3, 'Bo', 'bo@example.org', 'client'],
        [4, 'No one', '', 'client'],
      ])
        await run(`INSERT INTO contacts VALUES (${id}, '${name}', '${mail}', '${kind}', 'F')`);
      const catalogue = await source.catalogue(true);
      const roster: Roster = {
        table: 'contacts',
        name: 'Full name',
        email: 'mail',
        organisation: 'firm',
        roles: [{ role: 'clerk', where: parseCondition("kind = 'client'").condition }],
      };
      expect(await rosterFacts(source, catalogue, roster)).toMatchObject({ rows: 4, sharedEmail: 2 });
      const proposed = oneRowAPerson(roster, findTable(catalogue, 'contacts')!, catalogue)!;
      await trySavedQuery(source, catalogue, proposed);
      const known = await withSavedQueries(source, catalogue, [proposed]);
      expect(await rosterFacts(source, known, { ...roster, table: proposed.name })).toEqual({
        table: 'contacts_people',
        rows: 2,
        withoutEmail: 0,
        sharedEmail: 0,
      });
      expect(
        (await rosterRows(source, known, { ...roster, table: proposed.name })).map((row) => row.email).toSorted(),
      ).toEqual(['ada@example.org', 'bo@example.org']);
      expect(oneRowAPerson({ ...roster, name: 'gone' }, findTable(catalogue, 'contacts')!, catalogue)).toBeNull();
    }
  });

  it('is gone when what it reads is gone, and closes what relies on it', async () => {
    for (const { source, run } of sides) {
      const visit = await visitOf(source, clerk, [
        perOwner,
        { name: 'days', key: [], text: 'SELECT day AS day FROM visits' },
      ]);
      expect(findTable(visit.catalogue, 'days')).toBeDefined();
      await run('ALTER TABLE visits DROP COLUMN day');
      const after = await visitOf(source, clerk, [
        perOwner,
        { name: 'days', key: [], text: 'SELECT day AS day FROM visits' },
      ]);
      expect([findTable(after.catalogue, 'days'), findTable(after.catalogue, 'per_owner')]).toEqual([
        undefined,
        undefined,
      ]);
      await expect(
        list(source, after, 'per_owner', {
          columns: [['name']],
          sort: [],
          where: [],
          search: '',
          after: null,
          before: null,
          size: 5,
        }),
      ).rejects.toThrow('There is no such table');
    }
  });

  it(
    "is read with the scopes of the database: no WITH takes a table's name, and every column tells what it comes " +
      'from',
    async () => {
      const o = (...names: string[]) =>
        names.map((name) => ({ table: name.split('.')[0]!, column: name.split('.')[1]! }));
      const cases: [string, Record<string, { table: string; column: string }[]>][] = [
        [
          'SELECT o.id AS a, CONCAT(o.name, o.parish) AS b, COUNT(*) AS c, 1 AS d FROM owners o GROUP BY o.id',
          { a: o('owners.id'), b: o('owners.name', 'owners.parish'), c: [], d: [] },
        ],
        [
          'WITH x AS (SELECT id, fee AS f FROM visits), y (p, q) AS (SELECT id, f * 2 FROM x) SELECT y.q AS ' +
            'paid, x.id FROM x JOIN y ON y.p = x.id',
          { paid: o('visits.fee'), id: o('visits.id') },
        ],
        [
          "SELECT v.*, CASE WHEN (SELECT COUNT(*) FROM owners w WHERE w.parish = 'Hill' AND w.id = v.owner_id) > " +
            "0 THEN 'y' ELSE 'n' END AS hill FROM visits v",
          {
            id: o('visits.id'),
            owner_id: o('visits.owner_id'),
            fee: o('visits.fee'),
            hill: o('owners.parish', 'owners.id', 'visits.owner_id'),
          },
        ],
        ['SELECT name AS n FROM owners UNION ALL SELECT parish FROM owners', { n: o('owners.name', 'owners.parish') }],
        ['SELECT q.f AS f FROM (SELECT MAX(fee) AS f FROM visits) q', { f: o('visits.fee') }],
        [
          'SELECT id, ROW_NUMBER() OVER (PARTITION BY owner_id ORDER BY fee) AS place FROM visits',
          { id: o('visits.id'), place: o('visits.owner_id', 'visits.fee') },
        ],
      ];
      for (const { source } of sides) {
        const catalogue = await source.catalogue(true);
        for (const [text, expected] of cases) {
          if (text.includes('GROUP BY o.id') && catalogue.database === 'postgresql') continue;
          const table = await trySavedQuery(source, catalogue, { name: 'q', key: [], text });
          const found = Object.fromEntries(table.columns.map((column) => [column.name, column.from]));
          for (const [column, origins] of Object.entries(expected))
            expect([
              text,
              column,
              [...found[column]!].map((each) => `${each.table}.${each.column}`).toSorted(),
            ]).toEqual([text, column, origins.map((each) => `${each.table}.${each.column}`).toSorted()]);
        }
        for (const [text, sentence] of [
          ['WITH owners AS (SELECT * FROM owners) SELECT id FROM owners', /has the name of a table/],
          ['WITH x AS (SELECT 1 AS owners) SELECT nowhere FROM x', /no column nowhere/],
          ['SELECT id FROM visits WHERE nowhere = 1', /no column nowhere/],
        ] as const) {
          const closed = withCeilings(catalogue, { owners: { columns: { parish: 'nothing' } } });
          await expect(trySavedQuery(source, closed, { name: 'q', key: [], text })).rejects.toMatchObject({
            fields: { text: expect.stringMatching(sentence) },
          });
        }
      }
      // A name that PostgreSQL takes for the whole row is every column of it.
      const [, postgres] = sides;
      const whole = await trySavedQuery(postgres!.source, await postgres!.source.catalogue(true), {
        name: 'q',
        key: [],
        text: 'SELECT CAST(o AS TEXT) AS line FROM owners o',
      });
      expect(whole.columns[0]!.from).toHaveLength(3);
    },
  );

  it(
    'keeps the data classes and masks of what its columns come from, and breaks promises about it, until a ' +
      'builder says why not',
    async () => {
      for (const { source, run } of sides) {
        await run('UPDATE visits SET fee = 4321.50 WHERE id = 1');
        const fees: SavedQuery = {
          name: 'fees',
          key: ['id'],
          text:
            'SELECT v.id AS id, v.fee * 1 AS amount, o.name AS who FROM visits v JOIN owners o ON o.id = ' +
            'v.owner_id',
        };
        const ruled: PortalDefinition = {
          ...definition,
          tables: { owners: { columns: { name: { dataClass: 'identity' } } } },
          access: {
            fees: {
              clerk: {
                see: { where: parseCondition('id = 1').condition, columns: ['id', 'amount', 'who'] },
                export: { where: 'as seen' },
              },
            },
          },
          masks: [
            {
              id: 'fee',
              table: 'visits',
              column: 'fee',
              mask: { style: 'step', size: '1000' },
              to: 'everyone',
              exceptRoles: [],
            },
            { id: 'names', dataClass: 'identity', mask: { style: 'initials' }, to: 'everyone', exceptRoles: [] },
          ],
          promises: [
            { id: 'p1', who: { role: 'clerk' }, says: 'may never', operation: 'see', table: 'visits', column: 'fee' },
            { id: 'p2', who: { role: 'clerk' }, says: 'may never', operation: 'see', table: 'owners' },
          ],
        };
        const visit = async (change: object = {}) => ({
          ...(await visitOf(source, clerk, [fees])),
          definition: { ...ruled, ...change } as PortalDefinition,
        });
        const amounts = async (change: object = {}) =>
          (
            await list(source, await visit(change), 'fees', {
              columns: [['amount'], ['who']],
              sort: [],
              where: [],
              search: '',
              after: null,
              before: null,
              size: 2,
            })
          ).records[0]!.values;
        expect(await amounts()).toEqual({ amount: '4000–5000', who: expect.stringMatching(/^O\. \d\.$/) });
        const apart = {
          tables: {
            ...ruled.tables,
            fees: {
              columns: { amount: { apart: 'Totals for the yearly report' }, who: { apart: 'Names are on the door' } },
            },
          },
        };
        expect(await amounts(apart)).toEqual({ amount: '4321.50', who: expect.stringMatching(/^Owner \d$/) });
        const broken = await testPromises(
          source,
          (await visit()).catalogue,
          { ...(await visit({ roles: [{ id: 'clerk', name: 'Clerk', for: 'visitors' }], masks: [] })).definition },
          [],
          new Date(),
        );
        expect(broken.map(({ kept, problem }) => [kept, problem])).toEqual([
          [false, 'the saved query fees shows it in amount'],
          [false, 'the saved query fees shows it in who'],
        ]);
        const asked = (await visit()).catalogue;
        const shown = (change: object) =>
          ['p1', 'p2'].map((id) =>
            shownByQuery(
              ruled.promises!.find((promise) => promise.id === id) as never,
              { ...ruled, ...change } as PortalDefinition,
              asked,
              clerk,
            ),
          );
        expect(shown({})).toEqual([null, { table: 'fees', column: 'who' }]);
        expect(shown({ masks: [] })).toEqual([
          { table: 'fees', column: 'amount' },
          { table: 'fees', column: 'who' },
        ]);
        expect(shown(apart)).toEqual([null, null]);
      }
    },
  );
});
