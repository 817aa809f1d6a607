import { createConnection } from 'mariadb';
import { expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { demoPassword } from '../../demo/load';
import { demoServer } from '../../test/server';

it('a steward looks after people whose columns are called as no word is', async () => {
  const demo = await demoServer(inject('database'), 'odd_people', 'odd_people_own');
  const sql = await createConnection({ ...inject('database'), database: 'odd_people' });
  try {
    await sql.query(
      'CREATE TABLE helpers (id INT PRIMARY KEY, `full name` VARCHAR(40) NOT NULL, `e-mail` VARCHAR(60))',
    );
    await sql.query("INSERT INTO helpers VALUES (1, 'Zed', 'zed@example.org'), (2, 'Abe', 'abe@example.org')");
    const builder = demo.client();
    await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
    const bench = '/builder/portals/alder-fen';
    const draft = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
    const columns = ['full name', 'e-mail'];
    draft.promises = [];
    draft.roles.push({ id: 'helper', name: 'Helper' });
    draft.rosters.push({ table: 'helpers', email: 'e-mail', name: 'full name', role: 'helper' });
    const steward = { id: 'helpers', role: 'steward', roster: 'helpers', roles: ['helper'] };
    draft.stewards!.push({ ...steward, does: 'look after people', sees: [], adds: columns, changes: columns, may: [] });
    const sections = [{ id: 'helpers', kind: 'people' as const, steward: 'helpers' }];
    draft.pages.push({ id: 'helpers', title: 'Helpers', intro: '', audience: { roles: ['steward'] }, sections });
    const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
    expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBe(201);

    const portal = '/portals/alder-fen';
    const anton = demo.client();
    await anton.post(`${portal}/sign-in`, { email: 'anton.wray@example.org', password: demoPassword });
    const { records } = (await anton.get(`${portal}/people/helpers`)).body as { records: { values: object }[] };
    expect(records.map(({ values }) => Object.values(values))).toEqual([
      ['Abe', 'abe@example.org'],
      ['Zed', 'zed@example.org'],
    ]);
    const { pages } = (await anton.get(`${portal}/me`)).body as { pages: { id: string; sections: any[] }[] };
    const [section] = pages.find(({ id }) => id === 'helpers')!.sections;
    expect(section.fills.map((fill: { path: string; mayStayEmpty?: true }) => [fill.path, fill.mayStayEmpty])).toEqual([
      ['"full name"', undefined],
      ['"e-mail"', true],
    ]);
  } finally {
    await sql.end();
    await demo.server.close();
  }
});
