import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Client } from '../../test/server';
import { apiOf } from '../api';
import { bench, goodPassword, ines, MailedPortal } from '../people/mails.fixture';
import type { Services } from '../portals/services';
import { Builder } from '../store/models';
import { writeAudit } from '../audit/audit';
import { isThorough } from '../../test/thorough';
import { Member, SignUpRequest } from '../store/people-models';
import { hashPassword } from './passwords';

/** Who is kept from personal data gets no true value of a column with a data class, from no address of the bench. */
let at: MailedPortal;
let kept: Client;
/** True values of such columns, each long enough to be no chance. */
let secrets: string[];
/** They by their first eight letters. */
const begins = new Map<string, string[]>();
const desk = 'odile.fennimore@example.org';
const warbler = 'warbler@fen-society.example.org';

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'sight');
  const passwordHash = await hashPassword(goodPassword);
  await Builder.create({
    email: 'kept@example.org',
    name: 'Kept',
    right: 'builder',
    seesPersonal: false,
    passwordHash,
  });
  kept = at.client();
  await kept.post('/builder/sign-in', { email: 'kept@example.org', password: goodPassword });
  const found = await at.demo.server.services.sources.get('sight').rows(
    raw(
      ['email', 'phone', 'postal_address', 'tax_number', 'iban']
        .map((column) => `SELECT ${column} FROM owners`)
        .concat('SELECT CAST(latitude AS CHAR) FROM wells')
        .join(' UNION '),
    ),
  );
  secrets = found.map(([value]) => String(value)).filter((value) => value.length > 7);
  // What the bench then tells of: a mail, a refresh in which somebody changed, lines of the log, somebody suspended.
  await at.send({ kind: 'invitation', members: [await at.idOf(ines)], again: true });
  await at.run("UPDATE owners SET email = 'moved@example.org' WHERE id = 20");
  // Whoever came by an open domain is called by their address.
  const { portalId } = await Member.findOne({ where: { email: ines }, rejectOnEmpty: true });
  await Member.create({
    portalId,
    email: warbler,
    name: warbler,
    onRoster: true,
    withoutRow: true,
    passwordHash: null,
  });
  // Somebody waits for the desk, which has done something as a steward.
  const asked = { portalId, signUp: 'harrow-end', email: 'heron@example.net', state: 'waiting' as const };
  const dates = { madeAt: new Date(), endsAt: new Date() };
  await SignUpRequest.create({ ...asked, ...dates, content: JSON.stringify({ phone: '07700 900123' }) });
  await SignUpRequest.create({ ...asked, ...dates, content: '{}', state: 'refused', decided: `Odile <${desk}>` });
  await writeAudit(portalId, `Odile Fennimore <${desk}>, visits of samplers`, 'handed over', `3 visits to ${desk}`);
  secrets.push('moved@example.org', warbler, 'heron@example.net', '07700 900123', desk);
  for (const secret of secrets) {
    const start = secret.slice(0, 8);
    begins.set(start, [...(begins.get(start) ?? []), secret]);
  }
  await at.builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
  await at.builder.send('PUT', `${bench}/members/${await at.idOf(ines)}/suspension`, { reason: 'to be told of' });
  const page = {
    id: 'told',
    title: 'Told',
    intro: '',
    audience: { roles: 'everyone' },
    sections: [
      { id: 'w', kind: 'text', text: 'You are {:member.email}, {:member.owners.phone}, {:member.owners.iban}.' },
    ],
  };
  await at.draftWith((draft) => {
    draft.pages.push(page as unknown as PortalDefinition['pages'][number]);
    const owners = { table: 'owners', where: 'every row' } as const;
    draft.pages.push({
      id: 'numbers',
      title: 'Numbers',
      intro: '',
      audience: { roles: 'everyone' },
      sections: [
        { id: 'owners', kind: 'cards', ...owners, columns: ['name', 'phone'], across: 2, sort: [] },
        { id: 'phones', kind: 'chart', ...owners, form: 'bars', measure: 'count', by: { column: 'phone' } },
        { id: 'last', kind: 'figure', ...owners, measure: 'maximum', column: 'postal_address' },
      ],
    });
    draft.roles.push({ id: 'guest', name: 'Guest', withoutRow: true });
    draft.openTo = { domains: ['fen-society.example.org'], roles: ['guest'] };
  });
});
afterAll(async () => at?.close());

/** Goes through the text once, and not once for each of thousands. */
function tellsAny(text: string): string | undefined {
  for (let at = 0; at + 8 <= text.length; at++) {
    const told = begins.get(text.slice(at, at + 8))?.find((secret) => text.startsWith(secret, at));
    if (told !== undefined) return told;
  }
  return undefined;
}

/** Every address of the bench that changes nothing, with names that lead to something. */
async function addresses(): Promise<[method: string, path: string, body?: object][]> {
  const members = [
    await at.idOf(ines),
    await at.idOf('anton.wray@example.org'),
    await at.idOf(warbler),
    await at.idOf(desk),
  ];
  const named: Record<string, string[]> = {
    // What stands together first: of each page the sections that are on it, of each table records that are there.
    ':page/:section': [
      'my-details/owners',
      'all-owners/owners',
      'parish/owners',
      'numbers/owners',
      'numbers/phones',
      'numbers/last',
    ],
    ':table/:id': ['owners/17', 'owners/3', 'wells/231'],
    ':slug': ['alder-fen'],
    ':table': ['owners', 'wells'],
    ':column': ['phone'],
    ':member': [...members.map(String), 'visitor'],
    ':page': ['parish', 'my-details', 'all-owners', 'numbers'],
    ':relation': ['owner', 'wells'],
    ':steward': ['parish-owners', 'visits-of-samplers'],
    ':number': ['1'],
    ':mail': ['1'],
    ':job': ['1', '2', '3'],
    ':name': ['owners'],
    ':file': ['f'.repeat(32)],
  };
  const bodies: Record<string, object[]> = {
    '/condition': [{ table: 'owners', text: "parish = 'Saltby'", member: members[0]!, role: 'well_owner' }],
    '/mask-sample': [{ table: 'owners', column: 'iban', mask: { style: 'keep last', count: 4 } }],
    '/mails/preview': [{ kind: 'invitation', member: members[0]!, words: null }],
    '/invitations/count': [{ kind: 'invitation' }],
    '/figures/:table': [
      { measures: [{ what: 'count' }], by: [{ column: 'phone' }] },
      { measures: [{ what: 'minimum', column: 'postal_address' }], by: [] },
      { measures: [{ what: 'maximum', column: 'latitude' }], by: [] },
    ],
    '/why/:table': [{ values: { name: 'X', phone: '1', parish: 'Saltby', postal_address: 'x' } }],
    '/why/:table/:id': [{ values: { phone: '0' } }, { values: { contact_by: 'letter' } }],
  };
  const queries: Record<string, string[]> = {
    '/side-by-side/:table': [`?one=${members[0]}&other=${members[1]}`],
    '/who': ['?table=owners&column=phone', `?person=${members[0]}`, '?class=contact'],
    '/who.csv': ['?table=owners&column=phone', `?person=${members[0]}`],
    '/members': ['?search=', `?search=${encodeURIComponent('brannock')}`],
    '/records/:table': ['?size=200', '?search=ines', '?sort=name'],
    '/exports/:table': ['?format=csv', '?format=json'],
    '/pages/:page/:section/file': ['?format=csv', '?format=json'],
    '/hand-over/:steward/counts': ['?from=9'],
  };
  const spread = (path: string): string[] => {
    const name = Object.keys(named).find((each) => new RegExp(`${each}\\b`).test(path)) ?? /:\w+/.exec(path)?.[0];
    return name === undefined ? [path] : (named[name] ?? ['x']).flatMap((value) => spread(path.replace(name, value)));
  };
  const ending = <T>(of: Record<string, T>, path: string) =>
    Object.entries(of).find(([end]) => path.endsWith(end))?.[1];
  return apiOf({ store: {} } as Services).flatMap(({ under, endpoints }) =>
    Object.values(endpoints)
      .filter(({ needs, reads }) => needs === 'builder' && reads)
      .flatMap(({ method, path }, turn) =>
        spread(under + path)
          .flatMap((address) =>
            (ending(queries, path) ?? ['']).flatMap((query) =>
              (method === 'POST' ? (ending(bodies, path) ?? [{}]) : [undefined]).map(
                (body): [string, string, object?] => [method, address + query, body],
              ),
            ),
          )
          // Of those of which there are many, other ones at each path and for each person; all where there is time.
          .filter((_, i, { length }) => isThorough || length < 9 || (i + Math.floor(i / 3) + turn) % 3 === 0),
      ),
  );
}

describe('a builder who is kept from personal data', () => {
  it('gets no true value of a column with a data class, wherever they look; others do', async () => {
    const asked = await addresses();
    expect(asked.length).toBeGreaterThan(150);
    const told: [who: string, path: string, secret: string][] = [];
    let answered = 0;
    let toldToOthers = 0;
    // The definition is what builders wrote, in their own words.
    const written = String(JSON.stringify((await kept.get(`${bench}/definition`)).body));
    const own = secrets.filter((secret) => written.includes(secret));
    for (const [method, path, body] of asked) {
      const mine = await kept.send(method, path, body);
      if (mine.status < 300) answered++;
      const secret = tellsAny(JSON.stringify(mine.body) ?? '');
      const isDefinition = path === bench || path === `${bench}/definition`;
      if (secret !== undefined && !(isDefinition && own.includes(secret))) told.push([method, path, secret]);
      // That there is something to tell is known after so many.
      if (toldToOthers > 20) continue;
      const theirs = await at.builder.send(method, path, body);
      if (tellsAny(JSON.stringify(theirs.body) ?? '') !== undefined) toldToOthers++;
    }
    expect(told).toEqual([]);
    expect([answered > 100, toldToOthers > 20]).toEqual([true, true]);
  });

  it('takes none out, and is told nothing of it by a file that others brought', async () => {
    const job = await kept.ended(`${bench}/jobs`, `${bench}/all/exports/owners`, { format: 'csv' });
    const file = await kept.get(`${bench}/files/${(job.result as { file: string }).file}`);
    expect(String(file.body).split('\n').length).toBeGreaterThan(400);
    expect(tellsAny(String(file.body))).toBeUndefined();
    const theirs = await at.builder.ended(`${bench}/jobs`, `${bench}/change-report`);
    expect((await kept.get(`${bench}/jobs/${theirs.id}`)).status).toBe(404);
    const report = await kept.ended(`${bench}/jobs`, `${bench}/change-report`);
    expect(tellsAny(JSON.stringify(report.result))).toBeUndefined();
  });

  it('sees what a person may all the same: stand-ins where they see, and why, with the true rights', async () => {
    const seen = `${bench}/as/${await at.idOf(ines)}`;
    const { record } = (await kept.get(`${seen}/records/owners/17`)).body;
    expect(record.values.phone).toMatch(/^#[0-9a-f]{10}$/);
    expect(record.values.name).toBe('Ines Brannock');
    // The same value has the same stand-in wherever it stands.
    const all = (await kept.get(`${bench}/all/records/owners/17`)).body;
    expect(all.record.values.phone).toBe(record.values.phone);
    // A version may be of before anybody said that a column holds personal data.
    expect((await kept.get(`${seen}@1/records/owners/17`)).status).toBe(403);
    expect((await at.builder.get(`${seen}@1/records/owners/17`)).status).toBe(200);
    const why = (await kept.get(`${seen}/why/owners/17?column=phone`)).body;
    expect([why.cell, why.editable]).toEqual([{ level: 'shown' }, true]);
    expect(JSON.stringify(why)).not.toContain('"values"');
    const same = (await at.builder.get(`${seen}/why/owners/17?column=phone`)).body;
    expect([same.cell, JSON.stringify(same).includes('"values"')]).toEqual([{ level: 'shown' }, true]);
    const [mine, theirs] = [await kept.get(`${bench}/findings`), await at.builder.get(`${bench}/findings`)];
    expect(mine.body.findings.map(({ id }: { id: string }) => id)).toEqual(
      theirs.body.findings.map(({ id }: { id: string }) => id),
    );
    expect((await kept.get(`${bench}/members?search=${encodeURIComponent(ines)}`)).body.total).toBe(0);
  });

  it('takes no class off a column, by no edit, and changes nobody’s password', async () => {
    const { revision, draft } = (await kept.get(bench)).body as { revision: number; draft: PortalDefinition };
    const edit = (patch: object[]) => kept.send('PATCH', `${bench}/draft`, { revision, label: 'Edit', patch });
    for (const patch of [
      [{ op: 'remove', path: '/tables/owners/columns/phone' }],
      [{ op: 'replace', path: '/tables/owners/columns/phone/dataClass', value: 'location' }],
      [{ op: 'add', path: '/tables/owners/columns/phone/apart', value: 'it is not' }],
    ]) {
      const { status, body } = await edit(patch);
      expect([status, body.type]).toEqual([403, 'urn:stone-porch:problem:personal-data']);
    }
    const without = structuredClone(draft);
    delete without.tables.owners;
    expect((await kept.send('PUT', `${bench}/definition`, without)).status).toBe(403);
    // To be kept from more is no question.
    expect(
      (await edit([{ op: 'add', path: '/tables/samplers', value: { columns: { phone: { dataClass: 'contact' } } } }]))
        .status,
    ).toBe(200);
    expect((await kept.post(`${bench}/draft/undo`)).status).toBe(403);
    const id = await at.idOf(ines);
    expect((await kept.send('PUT', `${bench}/members/${id}/password`, { password: goodPassword })).status).toBe(403);
    // Nor are the same tables had as a source of their own, of which nothing is said yet.
    const over = { slug: 'anew', name: 'Anew', schema: 'sight', timeZone: 'Europe/London' };
    const further = { ...draft, sources: { again: { kind: 'mariadb', schema: 'sight' } } };
    const copied = { ...draft, portal: { ...draft.portal, slug: 'anew' }, tables: {} };
    for (const [method, path, body] of [
      ['POST', '/builder/portals', over],
      ['PUT', `${bench}/definition`, further],
      ['POST', '/builder/portals/from-definition', copied],
    ] as const) {
      const answer = await kept.send(method, path, body);
      expect([path, answer.status, answer.body.type]).toEqual([path, 403, 'urn:stone-porch:problem:personal-data']);
    }
    const query = { name: 'phones', sql: 'SELECT id, phone AS x FROM owners', keep: false };
    expect((await kept.post(`${bench}/queries`, query)).status).toBe(403);
  });

  it('is no owner, who could give it to themselves', async () => {
    const kept404 = await Builder.findOne({ where: { email: 'kept@example.org' }, rejectOnEmpty: true });
    const form = { name: 'Kept', portals: null, suspended: false, seesPersonal: false };
    const owner = await at.builder.send('PUT', `/builder/colleagues/${kept404.id}`, { ...form, right: 'owner' });
    expect([owner.status, Object.keys(owner.body.fields)]).toEqual([422, ['seesPersonal']]);
    // Given sight, it holds at the next request.
    const given = { ...form, right: 'builder', seesPersonal: true };
    expect((await at.builder.send('PUT', `/builder/colleagues/${kept404.id}`, given)).status).toBe(204);
    const { record } = (await kept.get(`${bench}/all/records/owners/17`)).body;
    expect(record.values.phone).toMatch(/^01632/);
  });
});
