import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { knownAs, rolesOf, type KnownPerson } from '../../core/access/people';
import { builderPerson } from '../../core/access/person';
import type { MaskRule, PortalDefinition } from '../../core/definition/definition';
import { printPath } from '../../core/definition/path';
import { Random } from '../../core/proof/random';
import { raw } from '../../core/sql/sql';
import { demoServer } from '../../test/server';
import { at, edit, NotFound, read, type PlacedVisit } from '../gate/gate';
import { historyKeeper } from '../leaving/keep-history';
import { callingTo } from '../people/calling';
import { everyone } from '../people/everyone';
import { recordRoles } from '../people/record-roles';
import { Portal, Version } from '../store/models';
import { Member, PeopleState } from '../store/people-models';
import { LiveVersion, RecordedRoles, RolesLook } from '../store/roles-model';
import { toldThen } from './who-then';
import { tries } from '../../test/thorough';

/**
 * A month is played: 200 changes of rules, roles, rosters and a record, each at a moment of its own. What somebody
 * could see at a moment is held against what the gate showed them then, which is what Seen by shows.
 */

let demo: Awaited<ReturnType<typeof demoServer>>;
let portalId = 0;
const seed = 20261128;
const begun = Date.parse('2026-10-01T06:00:00Z');
const steps = tries(45, 200);
const columns = ['address', 'postcode', 'depth_m', 'latitude'];

const rows = (text: string) => demo.server.services.sources.get('then').rows(raw(text));
const write = (text: string) => demo.server.services.sources.get('then').write(raw(text));

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'then', 'then_own');
  portalId = (await Portal.findOne({ rejectOnEmpty: true })).id;
  // Who looks, and when, is played: the server's own look of every few minutes would be one of today.
  await PeopleState.upsert({ portalId, refreshedAt: new Date('2100-01-01T00:00:00Z') });
});
afterAll(async () => demo?.server.close());

/** What was true at a moment: how open each column was to each person, in any record and in the one. */
interface Truth {
  moment: Date;
  looked: boolean;
  levels: Map<string, Record<string, string>>;
}

const opened = async (definition: PortalDefinition) => demo.server.services.sources.of(definition);

async function live(): Promise<PortalDefinition> {
  const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
  return demo.server.services.definitions.version(portalId, portal.publishedVersion!);
}

/** Makes a version live at a moment, as publishing does. */
async function goLive(definition: PortalDefinition, moment: Date): Promise<void> {
  const number = Number(await Version.max('number', { where: { portalId } })) + 1;
  const more = { note: '', publishedBy: 'x', publishedAt: moment };
  await Version.create({ portalId, number, document: JSON.stringify(definition), ...more });
  await Portal.update({ publishedVersion: number }, { where: { id: portalId } });
  await LiveVersion.create({ portalId, number, at: moment });
}

/** How a record is shown to somebody now, by the gate. */
async function shownTo(definition: PortalDefinition, known: KnownPerson, id: string): Promise<Record<string, string>> {
  const there = await opened(definition);
  const person = knownAs(known, rolesOf(definition, there.catalogue, known));
  const visit: PlacedVisit = { ...there, definition, person, moment: new Date(), standIn: null };
  const paths = columns.map((column) => [column]);
  const record = await read(there.source, visit, 'wells', id, paths).catch((error: unknown) => {
    if (error instanceof NotFound) return null;
    throw error;
  });
  return Object.fromEntries(
    columns.map((column) => {
      const path = printPath([column]);
      const isThere = record !== null && Object.hasOwn(record.values, path);
      return [column, !isThere ? 'hidden' : record.masked.includes(path) ? 'masked' : 'shown'];
    }),
  );
}

it('tells of moments of a month what the gate showed at them, or that it is not known', async () => {
  const { services } = demo.server;
  const random = new Random(seed);
  await LiveVersion.destroy({ where: { portalId } });
  await RolesLook.destroy({ where: { portalId } });
  await RecordedRoles.destroy({ where: { portalId } });
  const first = structuredClone(await live());
  // Rules by the record's own columns and the keys of rosters are recorded whole; the others are there as well.
  first.access.wells!.sampler!.see!.where = { kind: 'null', left: { kind: 'column', path: ['depth_m'] } };
  await goLive(first, new Date(begun - 60_000));
  await recordRoles(services, portalId, new Date(begun - 30_000));

  const [[id]] = (await rows("SELECT id FROM wells WHERE code = 'AF-0232'")) as [[number]];
  const members = await Member.findAll({ where: { portalId, onRoster: true }, order: [['id', 'ASC']] });
  const truths: Truth[] = [];
  const roles = first.roles.filter((role) => !role.for || role.for === 'members').map((role) => role.id);
  const owners = (await rows('SELECT id FROM owners ORDER BY id LIMIT 40')).map(([each]) => Number(each));
  const samplers = (await rows('SELECT id FROM samplers')).map(([each]) => Number(each));
  const acts: ((definition: PortalDefinition, moment: Date) => Promise<PortalDefinition | null>)[] = [
    // A column is taken from a role or given to it.
    async (definition) => {
      const [role, grant] = random.pick(Object.entries(definition.access.wells!).filter(([, each]) => each.see));
      const column = random.pick(columns);
      const has = grant.see!.columns.includes(column);
      const rest = grant.see!.columns.filter((each) => each !== column);
      definition.access.wells![role] = { ...grant, see: { ...grant.see!, columns: has ? rest : [...rest, column] } };
      return definition;
    },
    // A mask comes or goes.
    async (definition) => {
      const mask: MaskRule = {
        id: 'played',
        table: 'wells',
        column: random.pick(columns),
        mask: { style: 'all' },
        to: random.chance(0.5) ? 'everyone' : [random.pick(roles)],
        exceptRoles: [random.pick(roles)],
      };
      definition.masks = definition.masks.filter((each) => each.id !== 'played');
      if (random.chance(0.7)) definition.masks.push(mask);
      return definition;
    },
    // A role by hand, given or taken back.
    async () => {
      const member = random.pick(members);
      const given = random.chance(0.5) ? [{ role: random.pick(roles), reason: 'played', by: 'x', at: 'x' }] : null;
      await Member.update({ given: given && JSON.stringify(given) }, { where: { id: member.id } });
      return null;
    },
    // A roster says so by itself, with nobody told.
    async () => {
      if (random.chance(0.5))
        await write(`UPDATE samplers SET active = NOT active WHERE id = ${random.pick(samplers)}`);
      else await write(`UPDATE owners SET email = CONCAT('x', email) WHERE id = ${random.pick(owners)}`);
      return null;
    },
    // The record gets another owner, or another depth, through the gate.
    async (definition, moment) => {
      const there = await opened(definition);
      const asking = { ...there, definition, person: builderPerson, moment, portalId };
      const visit = { ...asking, history: () => historyKeeper(services, { ...asking, changedBy: 'played' }) };
      const { values } = await read(there.source, visit, 'wells', String(id), [['owner_id'], ['depth_m']]);
      const isOwner = random.chance(0.6);
      const [column, to] = isOwner
        ? ['owner_id', random.pick(owners)]
        : ['depth_m', values.depth_m === null ? '31.5' : null];
      await edit(there.source, visit, 'wells', String(id), { [column]: { from: values[column], to } });
      return null;
    },
  ];

  const people = async (definition: PortalDefinition) => {
    const there = await opened(definition);
    return everyone(there.source, there.catalogue, [definition], portalId);
  };
  const note = async (moment: Date, looked: boolean): Promise<void> => {
    const definition = await live();
    const levels = new Map<string, Record<string, string>>();
    const all = await people(definition);
    const ofRecord = Number((await rows(`SELECT owner_id FROM wells WHERE id = ${id}`))[0]![0]);
    // Those of whom it is likeliest that they see it, and some others.
    const some = [
      ...all.filter((each) => each.rows.owners?.id === ofRecord || each.given?.length),
      ...random.sample(
        all.filter((each) => !each.rows.owners),
        6,
      ),
      ...random.sample(all, 3),
    ];
    for (const each of some) levels.set(String(each.id), await shownTo(definition, each, String(id)));
    truths.push({ moment, looked, levels });
  };

  for (let step = 0; step < steps; step++) {
    const moment = new Date(begun + step * 3 * 3_600_000);
    const act = random.pick(acts);
    const next = await act(structuredClone(await live()), moment);
    if (next) await goLive(next, moment);
    // Soon after it nobody has looked yet; a while later somebody has. What is done and taken back between two looks
    // is not seen, so after what nobody is told of there is always one.
    const isTold = act === acts[0] || act === acts[1] || act === acts[4];
    if (random.chance(0.3)) await note(new Date(moment.getTime() + 60_000), false);
    if (isTold && random.chance(0.3)) continue;
    await recordRoles(services, portalId, new Date(moment.getTime() + 300_000));
    if (random.chance(0.3)) await note(new Date(moment.getTime() + 360_000), true);
  }
  await recordRoles(services, portalId, new Date(begun + steps * 3 * 3_600_000));

  const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
  const definition = await live();
  const there = await opened(definition);
  const calling = await callingTo({ definition, catalogue: there.catalogue }, portal.id);
  const counts = { held: 0, seen: 0, unknown: 0, unknownWhereLooked: 0 };
  for (const { moment, looked, levels } of truths)
    for (const column of random.sample(columns, 2)) {
      const asked = { at: moment, table: 'wells', column, record: String(id) };
      const told = await toldThen(services, portalId, asked, calling, async (then) =>
        at({ ...(await opened(then)), definition: then, person: builderPerson, moment: new Date() }, 'wells'),
      );
      const [found] = told.found;
      for (const [person, truth] of levels) {
        const group = found!.people.find((each) => each.people.some(({ id: who }) => String(who) === person));
        const isUnsure = found!.unsure.some(({ id: who }) => String(who) === person);
        const saw = isUnsure ? 'not known' : (group?.saw ?? 'hidden');
        if (saw === 'not known') {
          counts.unknown++;
          if (looked) counts.unknownWhereLooked++;
          continue;
        }
        counts.held++;
        if (saw !== 'hidden') counts.seen++;
        expect({ moment, person, column, saw }).toEqual({ moment, person, column, saw: truth[column] });
      }
    }
  console.log(`who could see it then, ${truths.length} moments:`, counts);
  expect(counts.held).toBeGreaterThan(tries(320, 1500));
  expect(counts.seen).toBeGreaterThan(tries(20, 100));
  expect(counts.unknown).toBeGreaterThan(0);
});
