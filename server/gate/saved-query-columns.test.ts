import { describe, expect, it } from 'vitest';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import { withCeilings } from '../../core/definition/ceilings';
import { list } from './read/list';
import { shownByQuery } from '../../core/access/promises';
import { testPromises } from './review/promises';
import { trySavedQuery, type SavedQuery } from './facts/saved-query';
import { sides, definition, clerk, visitOf, withSavedQuery } from './saved-query.fixture';

withSavedQuery();

describe("a saved query's columns", () => {
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
          {
            runner: source,
            catalogue: (await visit()).catalogue,
            definition: {
              ...(await visit({ roles: [{ id: 'clerk', name: 'Clerk', for: 'visitors' }], masks: [] })).definition,
            },
            moment: new Date(),
          },
          [],
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
