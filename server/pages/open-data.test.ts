import { readFileSync } from 'node:fs';
import Big from 'big.js';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { demoPassword } from '../../demo/load';
import type { ChartSection } from '../../sections/chart/spec';
import type { FigureSection } from '../../sections/figure/spec';
import type { ListSection } from '../../sections/list/spec';
import { demoServer, type Client } from '../../test/server';
import { freshSchema } from '../../test/tables';
import { when } from '../../test/wells';

/**
 * A portal over data that nobody here wrote: cars and the weather of Seattle, of the package vega-datasets. Analysts
 * see the cars of their own region; each chart and figure is reckoned apart, from the files themselves.
 */

interface Car {
  Name: string;
  Miles_per_Gallon: number | null;
  Cylinders: number;
  Horsepower: number | null;
  Year: string;
  Origin: string;
}

const file = (name: string) =>
  readFileSync(new URL(`../../node_modules/vega-datasets/data/${name}`, import.meta.url), 'utf8');
const cars = JSON.parse(file('cars.json')) as Car[];
const [head, ...lines] = file('seattle-weather.csv').trim().split('\n');
const days = lines.map((line) => {
  const [date, precipitation, high, low, wind, weather] = line.split(',') as [string, ...string[]];
  return { date, precipitation: precipitation!, high: high!, low: low!, wind: wind!, weather: weather! };
});

const origins = ['USA', 'Europe', 'Japan'] as const;
const portal = '/portals/open-data';
const bench = '/builder/portals/open-data';
const people: Record<string, Client> = {};
let demo: Awaited<ReturnType<typeof demoServer>>;

const chart = (id: string, table: string, over: Partial<ChartSection>): ChartSection => ({
  id,
  kind: 'chart',
  table,
  form: 'bars',
  measure: 'count',
  by: { column: 'origin' },
  where: 'every row',
  ...over,
});
const figure = (id: string, table: string, over: Partial<FigureSection>): FigureSection => ({
  id,
  kind: 'figure',
  table,
  measure: 'count',
  where: 'every row',
  ...over,
});

function openData(): PortalDefinition {
  const face = { slug: 'open-data', name: 'Open data', timeZone: 'UTC', colour: '#445566' };
  const definition = emptyDefinition(face, 'open_data');
  definition.rosters = [{ table: 'analysts', email: 'email', name: 'name', role: 'analyst' }];
  definition.roles = [{ id: 'analyst', name: 'Analyst' }];
  definition.access = {
    cars: {
      analyst: {
        see: {
          where: when('origin = :member.analysts.origin'),
          columns: ['name', 'mpg', 'cylinders', 'power', 'made', 'origin'],
        },
        export: { where: 'as seen' },
      },
    },
    days: {
      analyst: { see: { where: 'every row', columns: ['day', 'rain', 'high', 'low', 'wind', 'weather'] } },
    },
  };
  const list: ListSection = {
    id: 'list',
    kind: 'list',
    table: 'cars',
    columns: ['name', 'mpg', 'cylinders', 'made'],
    totals: ['power'],
    sort: [],
    where: 'every row',
  };
  definition.sheets = { cars: { columns: ['name', 'mpg'] } };
  definition.pages = [
    {
      id: 'numbers',
      title: 'Numbers',
      intro: '',
      audience: { roles: 'everyone' },
      sections: [
        list,
        chart('origins', 'cars', {}),
        chart('economy', 'cars', {
          measure: 'average',
          column: 'mpg',
          by: { column: 'made', step: 'year' },
          series: { column: 'cylinders' },
        }),
        chart('listed', 'cars', { by: { column: 'cylinders' }, follows: 'list' }),
        figure('strongest', 'cars', { measure: 'maximum', column: 'power' }),
        chart('rain', 'days', { measure: 'sum', column: 'rain', by: { column: 'day', step: 'month' } }),
        chart('kinds', 'days', { by: { column: 'weather' }, series: { column: 'day', step: 'year' } }),
        figure('coldest', 'days', { measure: 'minimum', column: 'low', where: when("weather <> 'snow'") }),
      ],
    },
  ];
  return definition;
}

beforeAll(async () => {
  const connection = await freshSchema(inject('database'), 'open_data');
  for (const table of [
    'analysts (id INT PRIMARY KEY, email VARCHAR(80), name VARCHAR(40), origin VARCHAR(10), UNIQUE (email))',
    `cars (id INT PRIMARY KEY, name VARCHAR(60), mpg DECIMAL(6,2), cylinders INT, power INT, made DATE,
      origin VARCHAR(10), KEY (origin))`,
    `days (day DATE PRIMARY KEY, rain DECIMAL(6,1), high DECIMAL(4,1), low DECIMAL(4,1), wind DECIMAL(4,1),
      weather VARCHAR(10))`,
  ])
    await connection.query(`CREATE TABLE ${table}`);
  await connection.batch(
    'INSERT INTO analysts VALUES (?, ?, ?, ?)',
    origins.map((origin, i) => [i + 1, `${origin}@example.org`.toLowerCase(), `Analyst ${i + 1}`, origin]),
  );
  await connection.batch(
    'INSERT INTO cars VALUES (?, ?, ?, ?, ?, ?, ?)',
    cars.map((car, i) => [
      i + 1,
      car.Name,
      car.Miles_per_Gallon,
      car.Cylinders,
      car.Horsepower,
      car.Year.slice(0, 10),
      car.Origin,
    ]),
  );
  await connection.batch(
    'INSERT INTO days VALUES (?, ?, ?, ?, ?, ?)',
    days.map((day) => [day.date, day.precipitation, day.high, day.low, day.wind, day.weather]),
  );
  await connection.end();
  demo = await demoServer(inject('database'), 'open', 'open_own');
  const builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const made = await builder.post('/builder/portals', {
    slug: 'open-data',
    name: 'Open data',
    schema: 'open_data',
    timeZone: 'UTC',
  });
  expect([made.status, made.body.detail]).toEqual([201, undefined]);
  const put = await builder.send('PUT', `${bench}/definition`, openData());
  expect([put.status, put.body.faults]).toEqual([200, undefined]);
  await builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
  const { members } = (await builder.get(`${bench}/members?search=`)).body as {
    members: { id: number; email: string }[];
  };
  expect(members).toHaveLength(3);
  for (const { id } of members)
    await builder.send('PUT', `${bench}/members/${id}/password`, { password: demoPassword });
  const { revision } = (await builder.get(bench)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBe(201);
  for (const origin of origins) {
    people[origin] = demo.client();
    const email = `${origin}@example.org`.toLowerCase();
    const came = await people[origin].post(`${portal}/sign-in`, { email, password: demoPassword });
    expect([email, came.status]).toEqual([email, 200]);
  }
});
afterAll(async () => demo?.server.close());

/** The groups of a chart as somebody gets them: what each is of, and its number. */
async function groupsOf(who: string, section: string, query = ''): Promise<Record<string, number | null>> {
  const { status, body } = await people[who]!.get(`${portal}/pages/numbers/${section}/chart${query}`);
  expect([status, body.detail]).toEqual([200, undefined]);
  const groups = body.groups as { key: unknown[]; values: (string | number | null)[] }[];
  return Object.fromEntries(
    groups.map(({ key, values: [value] }) => [key.join(' '), value === null ? null : Number(value)]),
  );
}

/** The same, reckoned from the file. */
function reckoned<T>(
  all: readonly T[],
  key: (each: T) => unknown[],
  reckon: (group: T[]) => number | null,
): Record<string, number | null> {
  const groups = new Map<string, T[]>();
  for (const each of all) {
    const of = key(each).join(' ');
    groups.set(of, [...(groups.get(of) ?? []), each]);
  }
  return Object.fromEntries([...groups].map(([of, group]) => [of, reckon(group)]));
}

const numberOf = async (who: string, section: string) =>
  Number((await people[who]!.get(`${portal}/pages/numbers/${section}/figure`)).body.taken.number);

const average = (values: (number | null)[]): number | null => {
  const known = values.filter((value) => value !== null);
  if (known.length === 0) return null;
  // As MariaDB's AVG of DECIMAL(6,2) has it: four further places.
  const sum = known.reduce((all, value) => all.plus(value), new Big(0));
  return Number(sum.div(known.length).round(6, Big.roundHalfUp));
};

describe('a portal over open data', () => {
  it('has the files whole', () => {
    expect([head, cars.length, days.length]).toEqual(['date,precipitation,temp_max,temp_min,wind,weather', 406, 1461]);
  });

  it('shows each analyst the charts of the cars that are theirs', async () => {
    for (const origin of origins) {
      const theirs = cars.filter((car) => car.Origin === origin);
      expect(await groupsOf(origin, 'origins')).toEqual({ [origin]: theirs.length });
      expect(await groupsOf(origin, 'economy')).toEqual(
        reckoned(
          theirs,
          (car) => [car.Year.slice(0, 4), car.Cylinders],
          (group) => average(group.map((car) => car.Miles_per_Gallon)),
        ),
      );
      const powers = theirs.flatMap(({ Horsepower }) => Horsepower ?? []);
      expect(await numberOf(origin, 'strongest')).toBe(Math.max(...powers));
      // What goes with the list goes with what is looked for in it.
      const wagons = theirs.filter((car) => car.Name.includes('wagon') && (car.Miles_per_Gallon ?? 0) >= 20);
      const query = `?search=wagon&filter=${encodeURIComponent('mpg >= 20')}`;
      expect(await groupsOf(origin, 'listed', query)).toEqual(
        reckoned(
          wagons,
          (car) => [car.Cylinders],
          (group) => group.length,
        ),
      );
      const listed = await people[origin]!.get(`${portal}/pages/numbers/list${query}`);
      expect(listed.body.total).toBe(wagons.length);
      const { totals } = (await people[origin]!.get(`${portal}/pages/numbers/list/totals${query}`)).body as {
        totals: { number: unknown }[];
      };
      const sum = wagons.reduce((all, car) => all + (car.Horsepower ?? 0), 0);
      expect(totals.map(({ number }) => Number(number))).toEqual([sum]);
    }
  });

  it('shows all of them the same weather', async () => {
    const rain = reckoned(
      days,
      ({ date }) => [date.slice(0, 7)],
      (month) => Number(month.reduce((all, { precipitation }) => all.plus(precipitation), new Big(0))),
    );
    const kinds = reckoned(
      days,
      ({ weather, date }) => [weather, date.slice(0, 4)],
      (group) => group.length,
    );
    const coldest = Math.min(...days.flatMap(({ weather, low }) => (weather === 'snow' ? [] : Number(low))));
    expect(Object.keys(rain)).toHaveLength(48);
    for (const origin of origins)
      expect([
        await groupsOf(origin, 'rain'),
        await groupsOf(origin, 'kinds'),
        await numberOf(origin, 'coldest'),
      ]).toEqual([rain, kinds, coldest]);
  });
});
