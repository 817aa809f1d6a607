import { raw } from '../../core/sql/sql';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { withDeclaredRelations } from '../../core/definition/declared-relations';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import { wellsCatalogue } from '../../test/wells';

/**
 * Relations that no foreign key declares: suggested by names and values, declared in the definition, and then as good
 * as any.
 */
let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const bench = '/builder/portals/alder-fen';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'relate', 'relate_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const source = demo.server.services.sources.get('relate');
  for (const text of [
    'CREATE TABLE complaints (id INT PRIMARY KEY, well_code CHAR(7), owner_id INT, words VARCHAR(40))',
    "INSERT INTO complaints VALUES (1, 'AF-0231', 17, 'cloudy'), (2, 'AF-0232', 17, 'smells'), (3, 'AF-0001', " +
      "1, 'late'), (4, NULL, NULL, 'none')",
    'CREATE TABLE other_ids (id INT PRIMARY KEY, owner_id INT)',
    'INSERT INTO other_ids VALUES (1, 17), (2, 90001), (3, 90002)',
  ])
    await source.write(raw(text));
  await source.catalogue(true);
});
afterAll(async () => demo?.server.close());

describe('a relation without a foreign key', () => {
  it("is suggested where the values are found at the other end, and not where they aren't", async () => {
    expect((await builder.get(`${bench}/data/complaints/suggestions`)).body.relations).toEqual([
      { name: 'well', column: 'well_code', table: 'wells', targetColumn: 'code', found: 3, of: 3 },
      { name: 'owner', column: 'owner_id', table: 'owners', targetColumn: 'id', found: 3, of: 3 },
    ]);
    expect((await builder.get(`${bench}/data/other_ids/suggestions`)).body.relations).toEqual([]);
    expect((await builder.get(`${bench}/data/visits/suggestions`)).body.relations).toEqual([]);
  });

  it('serves row filters, lists and related records once it is declared', async () => {
    const definition = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
    definition.tables.complaints = {
      relations: [{ name: 'well', column: 'well_code', table: 'wells', targetColumn: 'code' }],
    };
    definition.access.complaints = {
      well_owner: {
        see: {
          where: parseCondition('well.owner_id = :member.owners.id').condition,
          columns: ['id', 'well_code', 'words'],
        },
      },
    };
    expect((await builder.send('PUT', `${bench}/definition`, definition)).status).toBe(200);
    await builder.post(`${bench}/versions`, { revision: (await builder.get(bench)).body.revision, note: '' });
    const ines = demo.client();
    await ines.post('/portals/alder-fen/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
    const complaints = (await ines.get('/portals/alder-fen/records/complaints?columns=words,well.address')).body;
    expect(
      complaints.records.map((record: { values: { words: string } }) => [
        record.values.words,
        'well.address' in record.values,
      ]),
    ).toEqual([
      ['cloudy', true],
      ['smells', true],
    ]);
    expect((await ines.get('/portals/alder-fen/records/wells/231/related/complaints')).body.total).toBe(1);
    // Taken off again, the filter can't be answered, and nobody gets in.
    delete definition.tables.complaints;
    await builder.send('PUT', `${bench}/definition`, definition);
    await builder.post(`${bench}/versions`, { revision: (await builder.get(bench)).body.revision, note: '' });
    expect((await ines.get('/portals/alder-fen/records/complaints')).status).toBe(404);
  });

  it("is left out when it can't be one", () => {
    const related = (change: object) =>
      withDeclaredRelations(wellsCatalogue, {
        tables: {
          visits: {
            relations: [{ name: 'sampler', column: 'sampler_id', table: 'samplers', targetColumn: 'id', ...change }],
          },
        },
      })
        .tables.find((table) => table.name === 'visits')!
        .relations.map((relation) => relation.name);
    expect(related({})).toEqual(['well', 'sampler']);
    for (const change of [
      { name: 'well' },
      { name: 'fee' },
      { column: 'well_id' },
      { column: 'gone' },
      { table: 'gone' },
      { targetColumn: 'gone' },
      { targetColumn: 'name' },
      { column: 'fee' },
    ])
      expect([change, related(change)]).toEqual([change, ['well']]);
  });
});
