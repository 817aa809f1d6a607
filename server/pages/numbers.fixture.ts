import { afterAll, beforeAll, expect, inject } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import type { ChartSection } from '../../sections/chart/spec';
import type { FigureSection } from '../../sections/figure/spec';
import { demoPassword } from '../../demo/load';
import { listOf } from '../../test/pages';
import { demoServer, type Client } from '../../test/server';
import { when } from '../../test/wells';

/** Numbers of pages, each held against SQL written apart, over one database, for three people who see other rows. */

let records = '';
export let demo: Awaited<ReturnType<typeof demoServer>>;
export const people: Record<string, Client> = {};
export const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';

/** The visits that each of them sees, as their roles' filters say. */
export const seen: Record<string, string> = {
  'ines.brannock': "w.owner_id = (SELECT id FROM owners WHERE email = 'ines.brannock@example.org')",
  'mara.lindqvist':
    "(v.sampler_id = (SELECT id FROM samplers WHERE email = 'mara.lindqvist@example.org') OR v.planned_by = " +
    "(SELECT id FROM {own}.members WHERE email = 'mara.lindqvist@example.org'))",
  desk: 'TRUE',
};

const chart = (id: string, over: Partial<ChartSection> = {}): ChartSection => ({
  id,
  kind: 'chart',
  table: 'visits',
  form: 'bars',
  measure: 'count',
  by: { column: 'state' },
  where: 'every row',
  ...over,
});
const figure = (id: string, over: Partial<FigureSection> = {}): FigureSection => ({
  id,
  kind: 'figure',
  table: 'visits',
  measure: 'count',
  where: 'every row',
  ...over,
});

/** Serves the demo with a page of numbers and lists, in schemas of its own, for three people who are signed in. */
export function withNumbers(schema: string): void {
  beforeAll(async () => {
    records = schema;
    seen['mara.lindqvist'] = seen['mara.lindqvist']!.replace('{own}', `${schema}_own`);

    demo = await demoServer(inject('database'), schema, `${schema}_own`);
    const builder = demo.client();
    await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
    const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
    // Couriers make one move, and are not shown the state.
    draft
      .lifecycles!.find(({ table }) => table === 'visits')!
      .moves.find(({ id }) => id === 'hand-over')!
      .roles.push('lab_courier');
    draft.pages.push({
      id: 'numbers',
      title: 'Numbers',
      intro: '',
      audience: { roles: 'everyone' },
      sections: [
        listOf('visits', ['planned_for', 'state', 'access_note'], {
          where: when("state <> 'cancelled'"),
          totals: ['fee'],
          tabs: [
            { id: 'all', name: 'All', where: 'every row' },
            { id: 'open', name: 'Open', where: when("state IN ('asked', 'planned')") },
            { id: 'dear', name: 'Dear', where: when('fee > 60'), audience: { roles: ['desk'] } },
            { id: 'costs', name: 'Costs', where: when('fee > 0') },
            {
              id: 'mine',
              name: 'Mine',
              where: when('sampler_id = :member.samplers.id'),
              audience: { roles: 'everyone', where: when(":member.samplers.name <> ''") },
            },
          ],
        }),
        listOf('wells', ['code'], { id: 'kept', without: ['export'] }),
        listOf('visits', ['planned_for'], {
          id: 'marked',
          without: ['create', 'export'],
          marks: [
            { id: 'dear', word: 'dear', colour: 3, where: when('fee > 60 AND paid = FALSE') },
            { id: 'mine', word: 'mine', colour: 1, where: when('sampler_id = :member.samplers.id') },
            { id: 'far', word: 'far', colour: 2, where: when("well.parish <> 'Harrow End'") },
          ],
        }),
        listOf('visits', ['well_id', 'state'], { id: 'coded' }),
        listOf('visits', ['state'], {
          id: 'apart',
          without: ['create', 'export'],
          tabs: [{ id: 'desk', name: 'Desk', where: 'every row', audience: { roles: ['desk'] } }],
        }),
        figure('all'),
        figure('apart-number', { follows: 'apart' }),
        figure('coded-number', { follows: 'coded' }),
        figure('found', { follows: 'visits' }),
        chart('states'),
        chart('years', { by: { column: 'planned_for', step: 'year' }, series: { column: 'state' }, follows: 'visits' }),
        chart('fees', { measure: 'sum', column: 'fee', by: { column: 'planned_for', step: 'quarter' } }),
        chart('samplers', { by: { column: 'sampler.name' }, smallestGroup: 30 }),
        chart('many', { by: { column: 'access_note' }, table: 'visits', where: when('id > 0') }),
      ],
    });
    const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
    const published = await builder.post(`${bench}/versions`, { revision, note: '' });
    expect([published.status, published.body.detail]).toEqual([201, undefined]);
    const doors = (await demo.client().get(`${portal}/door`)).body.demo.people as { email: string; role: string }[];
    for (const name of Object.keys(seen)) {
      const found = doors.find(
        ({ email, role }) => email.startsWith(name) || (name === 'desk' && role === 'Programme desk'),
      );
      people[name] = demo.client();
      await people[name].post(`${portal}/sign-in`, { email: found!.email, password: demoPassword });
    }
  });
  afterAll(async () => demo?.server.close());
}

export const rows = (text: string) => demo.server.services.sources.get(records).rows(raw(text));

export async function groupsOf(name: string, section: string, query = ''): Promise<Record<string, string>> {
  const { status, body } = await people[name]!.get(`${portal}/pages/numbers/${section}/chart${query}`);
  expect([status, body.detail]).toEqual([200, undefined]);
  const groups = body.groups as { key: unknown[]; values: unknown[] }[];
  return Object.fromEntries(groups.map(({ key, values }) => [JSON.stringify(key), String(values[0])]));
}

/** The same by SQL: the columns grouped by, and the number last. */
export async function bySql(name: string, select: string, where = 'TRUE'): Promise<Record<string, string>> {
  const columns = select.split(' | ');
  const found = await rows(
    `SELECT ${columns.map((each, i) => `${each} AS c${i}`).join(', ')} FROM visits v JOIN wells w ON w.id = v.well_id
      LEFT JOIN samplers s ON s.id = v.sampler_id WHERE ${seen[name]} AND ${where}
      GROUP BY ${columns.slice(0, -1).map((_, i) => `c${i}`)}`,
  );
  return Object.fromEntries(found.map((row) => [JSON.stringify(row.slice(0, -1)), String(row.at(-1))]));
}
