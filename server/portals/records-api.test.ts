import { raw } from '../../core/sql/sql';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import type { TableInfo } from '../columns/column-info';
import { Setting } from '../store/models';

/**
 * Every kind of question and write over HTTP, as a member, and what builders are told of a draft before it is
 * published.
 */
let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let ines: Client;
const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';
const when = (text: string) => parseCondition(text).condition;

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'api', 'api_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  ines = demo.client();
  await ines.post(`${portal}/sign-in`, { email: 'ines.brannock@example.org', password: demoPassword });
});
afterAll(async () => demo?.server.close());

async function draft(change: (definition: PortalDefinition) => void): Promise<PortalDefinition> {
  const definition = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
  change(definition);
  const answer = await builder.send('PUT', `${bench}/definition`, definition);
  expect([answer.status, answer.body.faults]).toEqual([200, undefined]);
  return definition;
}
const publish = async () =>
  builder.post(`${bench}/versions`, {
    revision: (await builder.get(bench)).body.revision,
    note: '',
    despite: 'One promise here is meant to be broken.',
  });

describe('before publishing', () => {
  it('the change report counts what each group gains and loses', async () => {
    expect((await builder.ended(`${bench}/jobs`, `${bench}/change-report`)).result.groups).toEqual([]);
    await draft((definition) => {
      definition.access.wells!.sampler!.see!.where = when(
        'EXISTS (visits WHERE visits.sampler_id = :member.samplers.id)',
      );
      definition.access.wells!.well_owner!.see!.columns.push('latitude');
      definition.masks.push({
        id: 'place',
        dataClass: 'location',
        mask: { style: 'round', digits: 2 },
        to: 'everyone',
        exceptRoles: [],
      });
    });
    const { groups } = (await builder.ended(`${bench}/jobs`, `${bench}/change-report`)).result;
    const of = (name: string) =>
      groups.find((group: { people: { name: string }[] }) => group.people.some((person) => person.name === name));
    const source = demo.server.services.sources.get('api');
    const number = async (text: string) => Number((await source.rows(raw(text)))[0]![0]);
    const mara = of('Mara Lindqvist');
    const kept = await number('SELECT COUNT(DISTINCT well_id) FROM visits WHERE sampler_id = 9');
    const before = await number(
      `SELECT COUNT(DISTINCT well_id) FROM visits WHERE sampler_id = 9 OR planned_by = ${mara.people[0].id}`,
    );
    expect(mara).toMatchObject({
      table: 'wells',
      facts: { 'samplers.id': 9 },
      change: { rows: { gained: 0, kept, lost: before - kept } },
    });
    expect(before).toBeGreaterThan(kept);
    expect(of('Ines Brannock').change).toMatchObject({
      rows: { gained: 0, lost: 0, kept: 3 },
      columns: { latitude: { opened: 3, closed: 0 } },
    });
  });

  it('promises are tested on every member', async () => {
    await draft((definition) => {
      definition.promises = [
        {
          id: 'own',
          who: { role: 'well_owner' },
          says: 'may only',
          operation: 'see',
          table: 'wells',
          where: when('owner_id = :member.owners.id OR EXISTS (visits WHERE visits.sampler_id = :member.samplers.id)'),
        },
        {
          id: 'iban',
          who: { everyone: true, exceptRoles: ['desk'] },
          says: 'may never',
          operation: 'see',
          table: 'owners',
          column: 'iban',
        },
        {
          id: 'phones',
          who: { role: 'sampler' },
          says: 'may never',
          operation: 'see',
          table: 'owners',
          column: 'phone',
          where: when("parish = 'Saltby'"),
        },
        { id: 'three', who: { member: 'ines.brannock@example.org' }, says: 'sees exactly', records: 3, table: 'wells' },
      ];
    });
    const outcomes = (await builder.get(`${bench}/promises`)).body.outcomes as {
      id: string;
      kept: boolean;
      by: string;
      counterExample?: { record: string };
    }[];
    expect(outcomes.map((outcome) => [outcome.id, outcome.kept, outcome.by])).toEqual([
      ['own', true, 'analysis'],
      ['iban', true, 'analysis'],
      ['phones', false, 'data'],
      ['three', true, 'data'],
    ]);
    expect(outcomes[2]!.counterExample!.record).toMatch(/^\d+$/);
  });
});

describe('a member', () => {
  beforeAll(async () => {
    await draft((definition) => {
      const visits = definition.access.visits!.well_owner!;
      visits.create = { columns: ['well_id', 'access_note'] };
      visits.delete = { where: when("well.owner_id = :member.owners.id AND state = 'asked'") };
      definition.stamps = [
        {
          id: 'asked',
          table: 'visits',
          column: 'asked_on',
          on: 'create',
          value: { kind: 'clock', what: 'today' },
          to: 'everyone',
        },
      ];
      definition.lifecycles = [
        {
          table: 'visits',
          column: 'state',
          start: 'asked',
          moves: [
            {
              id: 'cancel',
              name: 'Cancel',
              from: ['asked', 'planned'],
              to: 'cancelled',
              roles: ['well_owner'],
              needs: ['access_note'],
            },
          ],
        },
      ];
      definition.masks.push({
        id: 'address',
        table: 'wells',
        column: 'address',
        mask: { style: 'stand-in' },
        to: 'everyone',
        exceptRoles: [],
      });
    });
    expect((await publish()).status).toBe(201);
  });

  it('makes, moves and deletes records, tries it first, and gets problems that say what to do', async () => {
    const tried = await ines.post(`${portal}/records/visits?trial=true`, { values: { well_id: 231 } });
    expect([tried.status, tried.body.record.values.state]).toEqual([200, 'asked']);
    const made = await ines.post(`${portal}/records/visits`, { values: { well_id: 231 } });
    expect([made.status, made.body.record.moves]).toEqual([
      201,
      [{ id: 'cancel', name: 'Cancel', to: 'cancelled', needs: ['access_note'] }],
    ]);
    const at = `${portal}/records/visits/${made.body.id}`;
    expect(
      (await ines.send('PATCH', at, { changes: { state: { from: 'asked', to: 'cancelled' } } })).body,
    ).toMatchObject({ status: 422, fields: { access_note: 'Fill this in first.' } });
    expect(
      (await ines.send('PATCH', at, { changes: { state: { from: 'asked', to: 'reported' } } })).body,
    ).toMatchObject({ status: 403 });
    expect(
      (
        await ines.send('PATCH', at, {
          changes: { state: { from: 'asked', to: 'cancelled' }, access_note: { from: null, to: 'No need now' } },
        })
      ).body.record.values.state,
    ).toBe('cancelled');
    expect((await ines.send('DELETE', at, {})).body).toMatchObject({
      status: 403,
      detail: 'You may not delete this record.',
    });
    const second = await ines.post(`${portal}/records/visits`, { values: { well_id: 232 } });
    expect(
      (await ines.send('DELETE', `${portal}/records/visits/${second.body.id}`, { seen: { state: 'asked' } })).status,
    ).toBe(204);
    expect((await ines.get(`${portal}/records/visits/${second.body.id}`)).status).toBe(404);
    for (const [body, status] of [
      [{ values: { well_id: 1 } }, 422],
      [{ values: { well_id: 231, fee: 1 } }, 403],
      [{ values: 7 }, 400],
      [{}, 400],
    ] as const)
      expect((await ines.post(`${portal}/records/visits`, body)).status).toBe(status);
  });

  it('is told what a new record is kept without, and it is; each of the others is asked for', async () => {
    const desk = demo.client();
    await desk.post(`${portal}/sign-in`, { email: 'odile.fennimore@example.org', password: demoPassword });
    const { columns, fills } = (await desk.get(`${portal}/tables/visits`)).body as TableInfo;
    const asked = columns.filter(({ path, mayStayEmpty }) => fills!.includes(path) && !mayStayEmpty);
    expect(asked.map(({ path }) => path)).toEqual(['well_id', 'asked_on']);
    const values: Record<string, unknown> = { well_id: 231, asked_on: '2026-11-24' };
    const tried = (given: object) => desk.post(`${portal}/records/visits?trial=true`, { values: given });
    expect((await tried(values)).status).toBe(200);
    for (const { path } of asked) {
      const { status, body } = await tried({ ...values, [path]: null });
      expect([status, Object.keys(body.fields as object)]).toEqual([422, [path]]);
    }
  });

  it('writes several at once, all or each by itself', async () => {
    const writes = [{ create: { well_id: 231 } }, { create: { well_id: 1 } }, { delete: '1' }];
    const refused = await ines.post(`${portal}/records/visits/several`, { writes });
    expect([
      refused.status,
      refused.body.type,
      refused.body.outcomes.map((outcome: { status?: number }) => outcome.status ?? 'done'),
    ]).toEqual([422, 'urn:stone-porch:problem:some-refused', ['done', 422, 404]]);
    const each = await ines.post(`${portal}/records/visits/several?trial=true`, { writes, mode: 'each by itself' });
    expect([each.status, each.body.outcomes.map((outcome: { done: boolean }) => outcome.done)]).toEqual([
      200,
      [true, false, false],
    ]);
  });

  it('asks for figures, related records and candidates within the view', async () => {
    const figure = await ines.post(`${portal}/figures/visits`, {
      measures: [{ what: 'count' }, { what: 'sum', column: 'fee' }],
      by: [{ column: 'well.code' }],
      filter: "state = 'reported'",
    });
    expect([figure.status, figure.body.groups.map((group: { key: string[] }) => group.key[0])]).toEqual([
      200,
      ['AF-0231', 'AF-0232', 'AF-0419'],
    ]);
    const related = await ines.get(`${portal}/records/wells/231/related/visits?size=2&sort=-asked_on`);
    expect([related.status, related.body.records.length]).toEqual([200, 2]);
    expect(
      (await ines.get(`${portal}/lookups/visits/well`)).body.candidates.map((each: { label: string }) => each.label),
    ).toEqual(['AF-0231', 'AF-0232', 'AF-0419']);
    for (const [method, path, body, status] of [
      ['GET', '/records/wells/1/related/visits', undefined, 404],
      ['GET', '/records/wells/231/related/none', undefined, 404],
      ['GET', '/lookups/visits/sampler', undefined, 404],
      ['POST', '/figures/labs', { measures: [{ what: 'count' }] }, 404],
      ['POST', '/figures/visits', { measures: [{ what: 'sum', column: 'seal_number' }] }, 400],
      ['POST', '/figures/visits', { measures: [{ what: 'guess' }] }, 400],
      ['POST', '/figures/visits', { measures: [{ what: 'count' }], filter: 'x =' }, 422],
    ] as const) {
      expect([path, (await ines.send(method, portal + path, body)).status]).toEqual([path, status]);
    }
  });

  it('sees a stand-in that stays the same, and asks by it', async () => {
    const wells = (await ines.get(`${portal}/records/wells?columns=code,address`)).body.records as {
      values: { address: string };
    }[];
    const shown = wells[0]!.values.address;
    expect(shown).toMatch(/^#[0-9a-f]{10}$/);
    const same = await ines.get(
      `${portal}/records/wells?columns=code&filter=${encodeURIComponent(`address = '${shown}'`)}`,
    );
    expect(same.body.total).toBe(1);
    expect(
      (await ines.get(`${portal}/records/wells?filter=${encodeURIComponent(`address > '${shown}'`)}`)).status,
    ).toBe(422);
    expect((await ines.get(`${portal}/records/wells?sort=address`)).status).toBe(400);
  });

  it("is bound by a ceiling of the source above every grant, and by nothing at all when it can't be read", async () => {
    const source = demo.server.services.sources.get('api');
    await Setting.upsert({
      name: 'ceilings/api',
      value: JSON.stringify({ owners: { edit: false, columns: { birth_date: 'nothing' } } }),
    });
    await source.catalogue(true);
    const record = (await ines.get(`${portal}/records/owners/17`)).body.record;
    expect([record.editable, 'birth_date' in record.values, 'phone' in record.values]).toEqual([[], false, true]);
    await Setting.upsert({ name: 'ceilings/api', value: '{"owners":{"edit":"maybe"}}' });
    await source.catalogue(true);
    expect((await ines.get(`${portal}/records/owners/17`)).status).toBe(500);
    await Setting.destroy({ where: { name: 'ceilings/api' } });
    await source.catalogue(true);
    expect((await ines.get(`${portal}/records/owners/17`)).body.record.editable).toEqual([
      'phone',
      'postal_address',
      'contact_by',
    ]);
  });
});

describe('a builder in Seen by', () => {
  it('may try a write, which changes nothing', async () => {
    const { id } = (await builder.get(`${bench}/members?search=ines.brannock`)).body.members[0];
    const as = `${bench}/as/${id}`;
    expect((await builder.post(`${as}/records/visits`, { values: { well_id: 231 } })).status).toBe(403);
    const before = (await builder.get(`${as}/table/visits`)).body.seen;
    expect(
      (await builder.post(`${as}/records/visits?trial=true`, { values: { well_id: 231 } })).body.record.values.state,
    ).toBe('asked');
    expect((await builder.get(`${as}/table/visits`)).body.seen).toBe(before);
  });
});
