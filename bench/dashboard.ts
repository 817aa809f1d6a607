import { createPool, type Pool } from 'mariadb';
import { loadDemo } from '../demo/load';
import { when } from '../demo/access';
import type { Page, PortalDefinition } from '../core/definition/definition';
import type { Section } from '../core/definition/section-kinds';
import { readDefinition } from '../sections/definition';
import { serveOf } from '../sections/serves';
import { Sources } from '../server/definitions/definitions';
import { knownMember, memberPerson } from '../server/people/members';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Portal } from '../server/store/models';
import { Member } from '../server/store/people-models';
import { standInKey } from '../server/store/stand-in';
import { openStore } from '../server/store/store';
import type { PortalVisit } from '../server/visits/member-visit';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';
import { growToMillion } from './million';
import { inTurns } from './timing';

const narrowed = { view: '', filter: '', search: '' };
const visits = { table: 'visits', where: 'every row' } as const;

/** Two figures, three charts and a list over what a sampler sees. */
const sections: Section[] = [
  { ...visits, id: 'all', kind: 'figure', measure: 'count' },
  { ...visits, id: 'planned', kind: 'figure', measure: 'count', where: when("state = 'planned'") },
  { ...visits, id: 'states', kind: 'chart', form: 'bars', measure: 'count', by: { column: 'state' } },
  {
    ...visits,
    id: 'years',
    kind: 'chart',
    form: 'bars',
    measure: 'count',
    by: { column: 'planned_for', step: 'year' },
    series: { column: 'state' },
  },
  { ...visits, id: 'parishes', kind: 'chart', form: 'bars', measure: 'count', by: { column: 'well.parish' } },
  {
    ...visits,
    id: 'list',
    kind: 'list',
    columns: ['planned_for', 'state', 'access_note', 'seal_number'],
    sort: [{ column: 'planned_for', descending: true }],
  },
];
export const dashPage: Page = { id: 'dash', title: 'Dash', intro: '', audience: { roles: 'everyone' }, sections };

/** Records with the titles of what they lead to. */
const titled: Section = {
  ...visits,
  id: 'titled',
  kind: 'list',
  columns: ['well_id', 'sampler_id', 'well.owner_id', 'planned_for', 'state', 'fee'],
  sort: [{ column: 'id', descending: true }],
};

const own = '(v.sampler_id = ? OR v.planned_by = ?)';

/**
 * The same by hand, sent at once. The parish of a well is for those who see the well, which the demo's rule tells by
 * its visits; `trusting` leaves that out, as somebody may who knows that whoever sees a visit sees its well.
 */
function byHand(pool: Pool, [sampler, member]: [number, number], trusting: boolean): Promise<unknown[]> {
  const ask = (text: string, values = [sampler, member]) => pool.execute(text, values);
  const sees = 'EXISTS (SELECT 1 FROM visits o WHERE o.well_id = w.id AND (o.sampler_id = ? OR o.planned_by = ?))';
  const joined = 'visits v LEFT JOIN wells w ON w.id = v.well_id';
  return Promise.all([
    ask(`SELECT COUNT(*) FROM visits v WHERE ${own}`),
    ask(`SELECT COUNT(*) FROM visits v WHERE ${own} AND v.state = 'planned'`),
    ask(`SELECT v.state, COUNT(*) FROM visits v WHERE ${own} GROUP BY v.state ORDER BY v.state`),
    ask(`SELECT YEAR(v.planned_for) y, v.state, COUNT(*) FROM visits v WHERE ${own} GROUP BY y, v.state ORDER BY y`),
    trusting
      ? ask(`SELECT w.parish p, COUNT(*) FROM ${joined} WHERE ${own} GROUP BY p ORDER BY p`)
      : ask(`SELECT IF(${sees}, w.parish, NULL) p, COUNT(*) FROM ${joined} WHERE ${own} GROUP BY p ORDER BY p`, [
          sampler,
          member,
          sampler,
          member,
        ]),
    ask(
      `SELECT v.id, v.planned_for, v.state, v.access_note, v.seal_number FROM visits v WHERE ${own}
        ORDER BY v.planned_for DESC, v.id DESC LIMIT 26`,
    ),
    ask(`SELECT COUNT(*) FROM visits v WHERE ${own}`),
  ]);
}

const titledByHand = (pool: Pool): Promise<unknown[]> =>
  Promise.all([
    pool.execute(
      `SELECT v.id, v.well_id, w.code, v.sampler_id, s.name, w.owner_id, o.name, v.planned_for, v.state, v.fee
        FROM visits v LEFT JOIN wells w ON w.id = v.well_id LEFT JOIN owners o ON o.id = w.owner_id
        LEFT JOIN samplers s ON s.id = v.sampler_id ORDER BY v.id DESC LIMIT 51`,
    ),
    pool.execute('SELECT COUNT(*) FROM visits v'),
  ]);

async function ofMember(
  sources: Sources,
  definition: PortalDefinition,
  portalId: number,
  name: string,
): Promise<PortalVisit> {
  const opened = await sources.of(definition);
  const member = await Member.findOne({ where: { portalId, email: `${name}@example.org` }, rejectOnEmpty: true });
  const known = (await knownMember(portalId, member.id))!;
  const person = await memberPerson(opened.source, opened.catalogue, definition, known);
  const standIn = await standInKey(portalId);
  const { email } = known;
  return {
    ...opened,
    definition,
    person,
    moment: new Date(),
    standIn,
    portalId,
    name: known.name,
    email,
    seenBy: false,
  };
}

const compared = (name: string, taken: { ours: number[]; hand: number[] }, aim: string): Figure => {
  const [ours, reference] = [quantile(taken.ours, 0.5), quantile(taken.hand, 0.5)];
  return { name, ours: round(ours), reference: round(reference), unit: 'ms', ratio: round(ours / reference), aim };
};

/**
 * A dashboard of a sampler over a million visits, and a list with three titles, at the server without HTTP: what the
 * sections of a page answer against the same statements by hand, in turns.
 */
export function dashboard(): Promise<Figure[]> {
  return withMariadb(['stone_porch', 'alder_fen'], (address) => measured(address));
}

async function measured(address: DatabaseAddress): Promise<Figure[]> {
  const store = await openStore(address, 'stone_porch');
  await loadDemo(address, 'alder_fen', store, 'stone_porch');
  console.log('growing to a million visits …');
  await growToMillion(address, 'alder_fen');
  const portal = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
  const definition = readDefinition(JSON.parse(portal.draft));
  definition.pages = [dashPage];
  const sources = new Sources(address, { ownSchema: 'stone_porch', connections: 10 });
  const pool = createPool({
    ...address,
    database: 'alder_fen',
    collation: 'utf8mb4_general_ci',
    connectionLimit: 10,
    rowsAsArray: true,
    dateStrings: true,
  });
  try {
    const sampler = await ofMember(sources, definition, portal.id, 'mara.lindqvist');
    const desk = await ofMember(sources, definition, portal.id, 'odile.fennimore');
    const ours = () =>
      Promise.all(
        sections.map((section) => {
          const serves = serveOf(section);
          if (section.kind === 'figure') return serves.figure!(sampler, section, dashPage, narrowed);
          if (section.kind === 'chart') return serves.chart!(sampler, section, dashPage, { ...narrowed, draw: '' });
          return serves.list!(sampler, section, { filter: '', search: '', size: 25 });
        }),
      );
    const [[row]] = [
      (await pool.execute("SELECT id FROM samplers WHERE email = 'mara.lindqvist@example.org'")) as [[number]],
    ];
    const facts: [number, number] = [Number(row[0]), sampler.person.id!];
    const [found, hand] = [await ours(), await byHand(pool, facts, false)];
    const told = (found.at(-1) as { total: number }).total;
    const counted = Number((hand.at(-1) as unknown[][])[0]![0]);
    if (told !== counted) throw new Error(`the two answer differently: ${told} and ${counted}`);
    console.log(`the sampler sees ${told} of a million visits`);
    const ways = { ours, hand: () => byHand(pool, facts, false), trusting: () => byHand(pool, facts, true) };
    const dash = await inTurns(ways, 200);
    const oursTitled = () => serveOf(titled).list!(desk, titled, { filter: '', search: '', size: 50 });
    const first = await oursTitled();
    if (first.records.length !== 50) throw new Error('the list with titles is not what it should be');
    const titles = await inTurns({ ours: oursTitled, hand: () => titledByHand(pool) }, 60, 5);
    return [
      compared('a dashboard against the same statements, median', dash, '1.15 or less'),
      compared('a dashboard against those that know the data', { ours: dash.ours, hand: dash.trusting }, 'none'),
      compared('a list of 50 with three titles, median', titles, '1.1 or less'),
    ];
  } finally {
    await pool.end();
    await sources.close();
    await store.close();
  }
}
