import type { Connection } from 'mariadb';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { demoDefinition } from '../../demo/definition';
import { loadTables } from '../../demo/load';
import { Random } from '../../core/proof/random';
import { freshSchema } from '../../test/tables';
import type { Person } from '../../core/access/person';
import { whoSees } from '../../core/access/who';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import { findTable, type Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { create } from './write/create';
import { edit } from './write/edit';
import { InvalidValues, NotFound, Refused } from './view/errors';
import { remove } from './write/remove';
import { whyChange, whyCreate, whyRemove } from './review/why-write';
import { read } from './read/read';
import { why } from './review/why';
import { tries } from '../../test/thorough';

let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;
const when = (text: string) => parseCondition(text).condition;
const base = demoDefinition('reasons');

const definition: PortalDefinition = {
  ...base,
  roles: [...base.roles, { id: 'desk', name: 'Desk' }, { id: 'accounts', name: 'Accounts' }],
  access: {
    ...base.access,
    visits: {
      ...base.access.visits,
      desk: {
        see: { where: when("state <> 'cancelled'"), columns: ['id', 'well_id', 'state', 'fee', 'paid', 'access_note'] },
        edit: { where: when("state IN ('asked', 'planned')"), columns: ['fee', 'access_note'] },
      },
      accounts: {
        see: { where: 'every row', columns: ['id', 'fee', 'paid'] },
        edit: { where: when('paid = FALSE'), columns: ['paid', 'fee'], unseen: ['fee'] },
      },
    },
    owners: {
      ...base.access.owners,
      desk: {
        see: {
          where: when("parish IN ('Saltby', 'Oxlode')"),
          columns: ['id', 'name', 'iban', 'phone', 'parish', 'birth_date'],
        },
      },
      accounts: { see: { where: 'every row', columns: ['id', 'iban', 'tax_number'] } },
    },
  },
  masks: [
    ...base.masks,
    {
      id: 'fee',
      table: 'visits',
      column: 'fee',
      mask: { style: 'step', size: '10' },
      to: ['accounts'],
      exceptRoles: [],
    },
    {
      id: 'phone',
      table: 'owners',
      column: 'phone',
      mask: { style: 'keep last', count: 3 },
      to: 'everyone',
      exceptRoles: ['sampler'],
      exceptMembers: ['m3@example.org'],
    },
  ],
  fences: [{ id: 'old', table: 'visits', where: when("planned_for > '2024-06-01'"), exceptRoles: ['accounts'] }],
};

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'reasons');
  await loadTables(inject('database'), 'reasons');
  source = new MariadbSource(inject('database'), 'reasons');
  catalogue = await source.catalogue();
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

it('says of random cells what the gate gives, and why', async () => {
  const random = new Random(20261123);
  const roles = definition.roles.map((role) => role.id);
  const seen = { hidden: 0, masked: 0, shown: 0, editable: 0, 'no record': 0 };
  for (let pairs = 0; pairs < tries(300, 1000);) {
    const own = random.int(1, 420);
    const person: Person = {
      kind: 'member',
      id: random.int(1, 500),
      email: `m${random.int(1, 6)}@example.org`,
      organisation: null,
      roles: roles.filter(() => random.chance(0.5)),
      rows: {
        owners: { id: own, parish: 'Saltby' },
        ...(random.chance(0.7)
          ? { samplers: { id: random.int(1, 14), district: ['Saltby', 'Oxlode', null][random.int(0, 2)]! } }
          : {}),
      },
    };
    const visit = { definition, catalogue, person, moment: new Date('2026-11-23T12:00:00Z'), standIn: null };
    const table = findTable(catalogue, ['visits', 'owners', 'wells'][random.int(0, 2)]!)!;
    // Half of the time a record that is likely to be theirs.
    const id = String(
      random.chance(0.5)
        ? random.int(1, table.name === 'visits' ? 2600 : 420)
        : table.name === 'owners'
          ? own
          : Number(
              (
                await plain.query<unknown[][]>({
                  rowsAsArray: true,
                  sql:
                    table.name === 'wells'
                      ? `SELECT COALESCE(MIN(id), 1) FROM wells WHERE owner_id = ${own}`
                      : 'SELECT COALESCE(MIN(v.id), 1) FROM visits v JOIN wells w ON w.id = v.well_id WHERE ' +
                        `w.owner_id = ${own}`,
                })
              )[0]![0],
            ),
    );
    const record = await read(source, visit, table.name, id).catch((error: unknown) => {
      if (error instanceof NotFound) return null;
      throw error;
    });
    for (const { name } of table.columns.filter(() => random.chance(0.6))) {
      const reason = await why(source, visit, table.name, id, name);
      const told = [reason.inView, reason.inView ? reason.cell!.level : 'hidden', reason.editable];
      const given =
        record === null
          ? [false, 'hidden', false]
          : [
              true,
              name in record.values ? (record.masked.includes(name) ? 'masked' : 'shown') : 'hidden',
              record.editable.includes(name) || record.replaceable.includes(name),
            ];
      expect([table.name, id, name, person.roles, ...told]).toEqual([table.name, id, name, person.roles, ...given]);
      // Each reason names what decided: a role whose rule holds where something is seen, none where the record isn't.
      expect(reason.roles.some((role) => role.see?.holds ?? false)).toBe(reason.inView);
      if (reason.inView && reason.cell!.level === 'masked')
        expect(reason.roles.some((role) => role.masks.some((mask) => mask.outcome === 'decides'))).toBe(true);
      // Nobody is given more than who sees what says of them.
      if (told[1] !== 'hidden') {
        const known = { id: 1, name: 'x', email: person.email, organisation: null, rows: person.rows };
        // Whatever role it is, the person has it.
        const asIs = {
          ...definition,
          roles: definition.roles.map(({ id: role, name: called }) => ({ id: role, name: called })),
        };
        const [who] = whoSees(
          asIs,
          catalogue,
          [{ ...known, given: person.roles }],
          [{ table: table.name, column: name }],
        );
        expect(who!.people[0]!.reach.level === 'shown' || told[1] === 'masked').toBe(true);
      }
      seen[record === null ? 'no record' : (given[1] as 'shown')]++;
      if (given[2]) seen.editable++;
      pairs++;
    }
  }
  for (const times of Object.values(seen)) expect(times).toBeGreaterThan(tries(5, 20));
});

it('says of random writes what the gate does, and what follows from it', async () => {
  const random = new Random(20261125);
  const told = { edits: [0, 0], creates: [0, 0], deletes: [0, 0], moves: [0, 0] };
  const ruled: PortalDefinition = {
    ...definition,
    access: {
      ...definition.access,
      wells: { ...definition.access.wells, desk: { see: { where: 'every row', columns: ['id', 'code'] } } },
      visits: {
        ...definition.access.visits,
        desk: {
          ...definition.access.visits!.desk!,
          create: { columns: ['well_id', 'state', 'fee', 'access_note', 'asked_on'], keepIn: when('fee < 100') },
          delete: { where: when("state = 'cancelled' OR fee < 60") },
          edit: {
            where: when("state IN ('asked', 'planned')"),
            columns: ['fee', 'access_note', 'well_id'],
            keepIn: when('fee < 100'),
          },
        },
        accounts: {
          ...definition.access.visits!.accounts!,
          create: { columns: ['fee', 'well_id', 'asked_on'], keepIn: when("access_note = 'by accounts'") },
        },
      },
    },
    // A stamp counts only where its role may edit the record: the keep-in rule of accounts asks it.
    stamps: [
      {
        id: 'note',
        table: 'visits',
        column: 'access_note',
        on: 'create and change',
        value: { kind: 'text', text: 'by accounts' },
        to: ['accounts'],
      },
    ],
    lifecycles: [
      {
        table: 'visits',
        column: 'state',
        start: 'asked',
        moves: [
          {
            id: 'plan',
            name: 'Plan',
            from: ['asked'],
            to: 'planned',
            roles: ['desk', 'sampler'],
            where: when('fee < 90'),
            needs: ['planned_for'],
          },
          { id: 'end', name: 'End', from: ['planned', 'asked'], to: 'cancelled', roles: ['accounts'], needs: [] },
        ],
      },
    ],
  };
  const open = (
    await plain.query<{ id: number }[]>(
      "SELECT id FROM visits WHERE state IN ('asked', 'planned') AND planned_for > '2024-06-01'",
    )
  ).map((row) => row.id);
  const outcome = async (work: Promise<unknown>) =>
    work.then(
      () => [true, null],
      (error: unknown) => {
        if (error instanceof NotFound || error instanceof InvalidValues || error instanceof Refused)
          return [false, error.message];
        throw error;
      },
    );
  for (let i = 0; i < tries(200, 600); i++) {
    const roles = ['desk', 'accounts', 'sampler', 'well_owner'].filter(() => random.chance(0.5));
    const person: Person = {
      kind: 'member',
      id: random.int(1, 500),
      email: 'm1@example.org',
      organisation: null,
      roles,
      rows: {
        owners: { id: random.int(1, 420), parish: 'Saltby' },
        samplers: { id: random.int(1, 14), district: 'Saltby' },
      },
    };
    const visit = { definition: ruled, catalogue, person, moment: new Date('2026-11-23T12:00:00Z'), standIn: null };
    // Half of the time one that is still open, of which there are few.
    const id = String(random.chance(0.5) ? random.int(1, 2600) : open[random.int(0, open.length - 1)]);
    const kind = (['edits', 'creates', 'deletes', 'moves'] as const)[i % 4]!;
    const made = kind === 'creates' ? { well_id: random.int(1, 560), asked_on: '2026-01-01' } : {};
    const values: Record<string, unknown> =
      kind === 'moves'
        ? { state: ['planned', 'cancelled'][random.int(0, 1)] }
        : {
            ...made,
            ...Object.fromEntries(
              [
                ['fee', ['50.00', '70.00', '150.00', 'x'][random.int(0, 3)]],
                ['access_note', 'round the back'],
                ['well_id', random.int(1, 560)],
                ['paid', true],
              ].filter(() => random.chance(0.4)),
            ),
          };
    if (Object.keys(values).length === 0 && kind !== 'deletes') continue;
    const seen =
      kind === 'creates' || kind === 'deletes' ? null : await read(source, visit, 'visits', id).catch(() => null);
    const changes = Object.fromEntries(
      Object.entries(values).map(([column, to]) => [column, { from: seen?.values[column] ?? null, to }]),
    );
    const given = await outcome(
      kind === 'creates'
        ? create(source, visit, 'visits', values, { trial: true })
        : kind === 'deletes'
          ? remove(source, visit, 'visits', id, {}, { trial: true })
          : edit(source, visit, 'visits', id, changes, { trial: true }),
    );
    const reason =
      kind === 'creates'
        ? await whyCreate(source, visit, 'visits', values)
        : kind === 'deletes'
          ? await whyRemove(source, visit, 'visits', id)
          : await whyChange(source, visit, 'visits', id, values);
    expect([i, kind, roles, values, reason.outcome.allowed, reason.outcome.words]).toEqual([
      i,
      kind,
      roles,
      values,
      ...given,
    ]);
    told[kind][given[0] ? 0 : 1]!++;
    // What is said beside it follows from the same rules.
    if (reason.outcome.allowed) {
      expect(reason.before?.inView ?? true).toBe(true);
      if (kind !== 'deletes')
        expect([i, kind, roles, reason.after.some((role) => role.keepIn.holds)]).toEqual([i, kind, roles, true]);
      expect(reason.relations.every((relation) => relation.isSeen)).toBe(true);
      if (kind === 'edits')
        expect(
          Object.keys(values).every((column) =>
            reason.after.some(
              (role) =>
                role.mayFill[column] && reason.before!.roles.find((each) => each.role === role.role)?.edit?.holds,
            ),
          ),
        ).toBe(true);
    } else if (reason.outcome.words?.includes('no longer be yours') && kind === 'edits')
      expect([i, reason.after.some((role) => role.keepIn.holds)]).toEqual([i, false]);
    else if (reason.outcome.words?.startsWith('There is no such record') && reason.before)
      expect(reason.before.inView).toBe(false);
  }
  for (const [yes, no] of Object.values(told)) expect(Math.min(yes!, no!)).toBeGreaterThan(tries(1, 3));
});
