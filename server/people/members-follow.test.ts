import { afterAll, beforeAll, describe, expect, inject, it, vi } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { raw } from '../../core/sql/sql';
import { Portal } from '../store/models';
import { Member, Membership, Session } from '../store/people-models';
import { everyone } from './everyone';

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const bench = '/builder/portals/alder-fen';
const portal = '/portals/alder-fen';
const ines = 'ines.brannock@example.org';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'people', 'people_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
});
afterAll(async () => demo?.server.close());

const run = (text: string) => demo.server.services.sources.get('people').write(raw(text));
const signIn = async (email: string) => {
  const client = demo.client();
  return { client, status: (await client.post(`${portal}/sign-in`, { email, password: demoPassword })).status };
};
const signedIn = async (email: string) => (await signIn(email)).client;
const roles = async (email: string) => {
  const { members } = (await builder.get(`${bench}/members?search=${encodeURIComponent(email)}`)).body;
  return members.map((each: { roles: string[]; state: string }) => [each.state, ...each.roles]);
};
const found = async (email: string, state?: string) =>
  (await builder.get(`${bench}/members?search=${encodeURIComponent(email)}${state ? `&state=${state}` : ''}`)).body
    .members[0];
const refresh = async () => (await builder.ended(`${bench}/jobs`, `${bench}/members/refresh`)).result;
const at = async (client: Client) => (await client.get(`${portal}/me`)).status;
/** The tables of which somebody sees anything. */
const sees = async (client: Client, table: string) =>
  (await client.get(`${portal}/records/${table}?size=1`)).body.total;

describe('a refresh', () => {
  it("refreshes members: who went is gone, who came is known, a shared e-mail is nobody's", async () => {
    await run('UPDATE samplers SET email = NULL WHERE id = 2');
    await run(
      "INSERT INTO samplers (name, email, district, active) VALUES ('New One', ' New.One@Example.org ', " +
        "'Saltby', 1), ('Twin A', 'twin@example.org', 'Saltby', 1), ('Twin B', 'TWIN@example.org', 'Saltby', 1)",
    );
    const outcome = await refresh();
    // Left: an owner without e-mail, a couple with one, a sampler without, the twins.
    expect(outcome).toMatchObject({
      came: 1,
      changed: 0,
      went: 1,
      unread: [],
      left: { 'no e-mail': 2, 'e-mail of several rows': 4 },
    });
    expect((await builder.get(`${bench}/members?search=new.one`)).body.members).toMatchObject([
      { email: 'new.one@example.org', state: 'known', rosters: ['samplers'], canSignIn: false },
    ]);
    expect((await builder.get(`${bench}/members?search=twin@`)).body.total).toBe(0);
    const findings = (await builder.get(`${bench}/findings`)).body.findings.map(
      (finding: { id: string }) => finding.id,
    );
    expect(findings.slice(0, 4)).toEqual([
      'no-email/owners',
      'shared-email/owners',
      'no-email/samplers',
      'shared-email/samplers',
    ]);
    expect(findings.slice(4)).toEqual([
      'telling/visits/sampler/seal_number',
      'twice',
      ...[
        'samplers/active',
        'visits/state',
        'advisories/published',
        'advisories/valid_until',
        'samplers/email',
        'visits/paid',
      ].map((column) => `index/${column}`),
      // The new one has no password, and there is no mail server to send a link through, nor those of the sign-up.
      'way-in/password',
      'way-in/sign-up',
    ]);
  });
});

describe('members follow the table', () => {
  it('a row that appears, changes what gives its role, or goes holds at the next request', async () => {
    const client = await signedIn(ines);
    const own = await sees(client, 'wells');
    expect(own).toBeGreaterThan(0);
    await run(
      `INSERT INTO staff (id, name, email, duty) VALUES (900, 'Ines at the desk', '${ines.toUpperCase()}', 'desk')`,
    );
    const all = await sees(client, 'wells');
    expect(all).toBeGreaterThan(100);
    expect((await client.get(`${portal}/records/test_requests?size=1`)).status).toBe(200);
    expect(await roles(ines)).toEqual([['active', 'well_owner', 'desk']]);
    await run("UPDATE staff SET duty = 'accounts' WHERE id = 900");
    expect((await client.get(`${portal}/records/test_requests?size=1`)).status).toBe(404);
    expect(await roles(ines)).toEqual([['active', 'well_owner', 'accounts']]);
    // A second row of the roster with their address: it is nobody's, and what it gave is gone at once.
    await run(`INSERT INTO staff (id, name, email, duty) VALUES (901, 'Another', '${ines}', 'accounts')`);
    expect([await at(client), await sees(client, 'wells')]).toEqual([200, own]);
    expect(await roles(ines)).toEqual([['active', 'well_owner']]);
    await run('DELETE FROM staff WHERE id >= 900');
    expect([await at(client), await sees(client, 'wells')]).toEqual([200, own]);
    expect(await roles(ines)).toEqual([['active', 'well_owner']]);
  });

  it('so does a row of a roster whose addresses have no index, within seconds', async () => {
    const client = await signedIn(ines);
    expect((await client.get(`${portal}/records/visits?size=1`)).status).toBe(200);
    const ownVisits = await sees(client, 'visits');
    await run(`INSERT INTO samplers (name, email, district, active) VALUES ('I', '${ines}', 'North', TRUE)`);
    const asked = (who: string[]) =>
      vi.waitFor(
        async () => {
          expect(await at(client)).toBe(200);
          expect(await roles(ines)).toEqual([['active', ...who]]);
        },
        // A look that took long on a busy machine is not done again for 500 times as long.
        { timeout: 100_000, interval: 100 },
      );
    await asked(['well_owner', 'sampler']);
    // Two of one roster are nobody's.
    await run(`INSERT INTO samplers (name, email, district, active) VALUES ('I', '${ines}', 'North', TRUE)`);
    await asked(['well_owner']);
    expect(await sees(client, 'visits')).toBe(ownVisits);
    await run(`DELETE FROM samplers WHERE email = '${ines}'`);
  });

  it('whoever stands on no roster any more is out at once, and comes back as who they were', async () => {
    const client = await signedIn(ines);
    const { id } = await found(ines);
    await run(`UPDATE owners SET email = NULL WHERE email = '${ines}'`);
    expect(await at(client)).toBe(401);
    expect(await Session.count({ where: { memberId: id } })).toBe(0);
    expect((await found(ines, 'gone')).id).toBe(id);
    expect((await signIn(ines)).status).toBe(401);
    const key = (await Membership.findOne({ where: { memberId: id }, rejectOnEmpty: true })).rowKey;
    await run(`UPDATE owners SET email = '${ines}' WHERE id = ${key}`);
    expect(await at(client)).toBe(401);
    expect(await at(await signedIn(ines))).toBe(200);
    expect((await found(ines)).id).toBe(id);
  });

  it('a changed address is the same member, who proves anew who they are', async () => {
    const client = await signedIn(ines);
    const { id } = await found(ines);
    await run(`UPDATE owners SET email = 'ines@new.example.org' WHERE email = '${ines}'`);
    expect(await at(client)).toBe(401);
    expect(await found('ines@new.example.org')).toMatchObject({ id, canSignIn: false, state: 'active' });
    expect((await signIn(ines)).status).toBe(401);
    expect((await signIn('ines@new.example.org')).status).toBe(401);
    await run(`UPDATE owners SET email = '${ines}' WHERE email = 'ines@new.example.org'`);
    await refresh();
    // The way back is a change of address as well.
    expect(await found(ines)).toMatchObject({ id, canSignIn: false });
    await builder.send('PUT', `${bench}/members/${id}/password`, { password: demoPassword });
    expect((await signIn(ines)).status).toBe(200);
  });

  it("an address that another row carries is another person's, who reaches nothing of the former's", async () => {
    const client = await signedIn(ines);
    const { id } = await found(ines);
    const wells = await sees(client, 'wells');
    await run(`UPDATE owners SET email = 'moved@example.org' WHERE email = '${ines}'`);
    await run(
      `INSERT INTO owners (id, name, email, postal_address, parish) VALUES (9000, 'Another', '${ines}', 'x', 'Saltby')`,
    );
    expect(await at(client)).toBe(401);
    await refresh();
    const other = await found(ines);
    expect(other.id).not.toBe(id);
    expect(other).toMatchObject({ canSignIn: false, state: 'known', name: 'Another' });
    expect((await signIn(ines)).status).toBe(401);
    await builder.send('PUT', `${bench}/members/${other.id}/password`, { password: demoPassword });
    const stranger = await signedIn(ines);
    expect([wells > 0, await sees(stranger, 'wells')]).toEqual([true, 0]);
    expect(await found('moved@example.org')).toMatchObject({ id, canSignIn: false });
    await run('DELETE FROM owners WHERE id = 9000');
    await run(`UPDATE owners SET email = '${ines}' WHERE email = 'moved@example.org'`);
    await refresh();
    await builder.send('PUT', `${bench}/members/${id}/password`, { password: demoPassword });
    expect(await sees(await signedIn(ines), 'wells')).toBe(wells);
  });

  it("an address that stands in two rows of a roster is nobody's from the next request on", async () => {
    const client = await signedIn(ines);
    await run(
      `INSERT INTO owners (id, name, email, postal_address, parish) VALUES (9001, 'Twin', '${ines}', 'x', 'Saltby')`,
    );
    expect(await at(client)).toBe(401);
    expect((await signIn(ines)).status).toBe(401);
    await run('DELETE FROM owners WHERE id = 9001');
    expect((await signIn(ines)).status).toBe(200);
  });

  it('a condition says who counts, from the publish on', async () => {
    const [active] = await demo.server.services.sources
      .get('people')
      .rows(raw("SELECT email FROM samplers WHERE active AND email <> '' AND id > 4 LIMIT 1"));
    const email = String(active![0]).toLowerCase();
    const client = await signedIn(email);
    const state = (await builder.get(bench)).body;
    const draft = state.draft as PortalDefinition;
    draft.rosters.find(({ table }) => table === 'samplers')!.where = {
      kind: 'compare',
      left: { kind: 'column', path: ['active'] },
      comparison: '=',
      right: { kind: 'boolean', value: true },
    };
    expect((await builder.send('PUT', `${bench}/definition`, draft)).status).toBe(200);
    await run(`UPDATE samplers SET active = FALSE WHERE email = '${email}'`);
    expect(await at(client)).toBe(200);
    const { revision } = (await builder.get(bench)).body;
    expect(await builder.post(`${bench}/versions`, { revision, note: '' })).toMatchObject({ status: 201 });
    expect(await at(client)).toBe(401);
    expect((await refresh()).left['does not count']).toBeGreaterThan(0);
    expect((await found(email, 'gone')).state).toBe('gone');
    await run(`UPDATE samplers SET active = TRUE WHERE email = '${email}'`);
    expect((await signIn(email)).status).toBe(200);
    expect((await found(email)).state).toBe('active');
  });

  it('a second row that does not count takes nothing from anybody, in proofs as at the door', async () => {
    const { definitions, sources } = demo.server.services;
    const known = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
    const [[key, email]] = (await sources
      .get('people')
      .rows(raw("SELECT id, LOWER(email) FROM samplers WHERE active AND email <> '' AND id > 4 LIMIT 1"))) as [
      [bigint, string],
    ];
    const standsAs = async () => {
      const definition = await definitions.draft(await known.reload());
      const { source, catalogue } = await sources.of(definition);
      const people = await everyone(source, catalogue, [definition], known.id);
      return people.some((person) => person.email === email && Object.hasOwn(person.rows, 'samplers'));
    };
    expect(await standsAs()).toBe(true);
    await run(
      'INSERT INTO samplers (name, email, district, active) ' +
        `SELECT name, email, district, FALSE FROM samplers WHERE id = ${key}`,
    );
    expect([await standsAs(), (await signIn(email)).status]).toEqual([true, 200]);
    await run(`UPDATE samplers SET active = TRUE WHERE email = '${email}'`);
    expect([await standsAs(), (await signIn(email)).status]).toEqual([false, 401]);
    const { id } = await Member.findOne({ where: { email }, rejectOnEmpty: true });
    expect((await builder.get(`${bench}/as/${id}/table/samplers`)).body.seen).toBe(0);
    await run(`DELETE FROM samplers WHERE email = '${email}' AND id <> ${key}`);
    expect([(await signIn(email)).status, await standsAs()]).toEqual([200, true]);
  });

  it('a roster that is dropped shuts nobody out for good: it is told, and all are who they were', async () => {
    const client = await signedIn(ines);
    const members = await Member.count({ where: { onRoster: true } });
    await run('RENAME TABLE owners TO owners_away');
    demo.server.services.sources.forget();
    expect(await at(client)).toBe(503);
    // The same to whoever stands there and to whoever stands nowhere; others come in.
    for (const email of [ines, 'nobody@example.org'])
      expect([email, (await signIn(email)).status]).toEqual([email, 503]);
    expect((await signIn('mara.lindqvist@example.org')).status).toBe(200);
    expect(await refresh()).toMatchObject({ went: 0, unread: ['owners'] });
    expect(await Member.count({ where: { onRoster: true } })).toBe(members);
    const { findings } = (await builder.get(`${bench}/findings`)).body as { findings: { id: string }[] };
    expect(findings.map(({ id }) => id)).toContain('roster/owners');
    await run('RENAME TABLE owners_away TO owners');
    demo.server.services.sources.forget();
    expect(await at(client)).toBe(200);
  });
});

describe('who is looked after', () => {
  it('is shut out at once with a reason, and let in again', async () => {
    const client = await signedIn(ines);
    const { id } = await found(ines);
    expect((await builder.send('PUT', `${bench}/members/${id}/suspension`, { reason: '' })).status).toBe(400);
    expect(await at(client)).toBe(200);
    expect((await builder.send('PUT', `${bench}/members/${id}/suspension`, { reason: 'Asked us to' })).status).toBe(
      204,
    );
    expect([await at(client), (await signIn(ines)).status]).toEqual([401, 401]);
    const sheet = (await builder.get(`${bench}/members/${id}`)).body;
    expect(sheet).toMatchObject({ state: 'suspended', suspended: { why: 'Asked us to' }, sessions: [] });
    await builder.send('DELETE', `${bench}/members/${id}/suspension`);
    expect((await signIn(ines)).status).toBe(200);
  });

  it('may be given a role by hand, which is told apart and taken back', async () => {
    const client = await signedIn(ines);
    const own = await sees(client, 'wells');
    const { id } = await found(ines);
    const role = `${bench}/members/${id}/roles`;
    expect((await builder.send('PUT', `${role}/visitor`, { reason: 'No such thing' })).status).toBe(422);
    expect((await builder.send('PUT', `${role}/desk`, { reason: 'Helps out this week' })).status).toBe(204);
    expect(await sees(client, 'wells')).toBeGreaterThan(own);
    expect((await builder.get(`${bench}/members/${id}`)).body).toMatchObject({
      roles: ['well_owner', 'desk'],
      given: [{ role: 'desk', reason: 'Helps out this week' }],
      rows: expect.arrayContaining([
        expect.objectContaining({ roster: 'owners', fault: null, roles: ['well_owner'] }),
        expect.objectContaining({ roster: 'staff', fault: 'gone', roles: [] }),
      ]),
    });
    const desk = (await builder.get(`${bench}/members?role=desk`)).body;
    expect(desk.members.map((each: { email: string }) => each.email)).toContain(ines);
    await builder.send('DELETE', `${role}/desk`);
    expect(await sees(client, 'wells')).toBe(own);
  });

  it('is found by state, roster and role, a page at a time', async () => {
    const page = async (query: string) => (await builder.get(`${bench}/members?${query}`)).body;
    const all = await page('size=200');
    const rest = await page('size=200&offset=200');
    expect(all.total).toBeGreaterThan(400);
    const names = [...all.members, ...rest.members].map((each: { name: string }) => each.name.toLowerCase());
    expect(names).toEqual(names.toSorted((a, b) => a.localeCompare(b, 'en')));
    const couriers = await page('role=lab_courier&size=200');
    expect(couriers.total).toBe(couriers.members.length);
    expect(couriers.members.every((each: { roles: string[] }) => each.roles.includes('lab_courier'))).toBe(true);
    const numbers = async (query: string) =>
      (await builder.get(`${bench}/member-numbers?${query}`)).body.members as number[];
    const ids = (members: { id: number }[]) => members.map(({ id }) => id).toSorted((a, b) => a - b);
    for (const [query, found] of [
      ['role=lab_courier', couriers.members],
      ['', [...all.members, ...rest.members, ...(await page('size=200&offset=400')).members]],
    ] as const)
      expect((await numbers(query)).toSorted((a, b) => a - b)).toEqual(ids(found));
    expect((await page('roster=staff&role=lab_courier')).total).toBe(0);
    expect((await page('state=invited')).total).toBe(0);
    expect((await page('state=active')).members.map((each: { email: string }) => each.email)).toContain(ines);
  });
});
