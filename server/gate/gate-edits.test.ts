import { describe, expect, it } from 'vitest';
import type { Person } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import { edit } from './write/edit';
import { read } from './read/read';
import { plain, source, catalogue, definition, when, member, visit, withGateTables } from './gate.fixture';

withGateTables();

describe('edits', () => {
  const change = async (
    person: Person,
    table: string,
    id: string,
    changes: Record<string, [unknown, unknown]>,
    changed = definition,
  ) =>
    edit(
      source,
      visit(person, changed),
      table,
      id,
      Object.fromEntries(Object.entries(changes).map(([column, [from, to]]) => [column, { from, to }])),
    );
  const fault = async (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (error: Error & { fields?: unknown }) => [error.constructor.name, error.fields],
    );
  const cell = async (table: string, column: string, id: number) =>
    (await plain.query<Record<string, unknown>[]>(`SELECT ${column} c FROM ${table} WHERE id = ?`, [id]))[0]!.c;

  it('change what is editable and give the record back as it is seen', async () => {
    const ines = await member({ owners: 17 });
    const before = await read(source, visit(ines), 'owners', '17');
    expect(before.editable).toEqual(['phone', 'postal_address', 'contact_by']);
    const after = await change(ines, 'owners', '17', { phone: [before.values.phone, '01632 000111'] });
    expect(after!.values).toEqual({ ...before.values, phone: '01632 000111' });
    expect(await cell('owners', 'phone', 17)).toBe('01632 000111');
    const wells = await change(ines, 'wells', '231', {
      treatment: [(await read(source, visit(ines), 'wells', '231')).values.treatment, ['UV', 'softener']],
    });
    expect(wells!.values.treatment).toEqual(['softener', 'UV']);
  });

  it('refuse every write on a foreign record, in every table and column', async () => {
    const ines = await member({ owners: 17 });
    const tables = ['owners', 'wells', 'visits', 'advisories', 'samples', 'analytes', 'samplers'];
    const sums = async () =>
      Promise.all(
        tables.map(
          async (table) => (await plain.query<Record<string, unknown>[]>(`CHECKSUM TABLE ${table}`))[0]!.Checksum,
        ),
      );
    const before = await sums();
    let tried = 0;
    for (const table of tables) {
      const known = catalogue.tables.find((each) => each.name === table)!;
      const own =
        {
          owners: 'id <> 17',
          wells: 'owner_id IS NULL OR owner_id <> 17',
          visits: 'well_id NOT IN (SELECT id FROM wells WHERE owner_id = 17)',
          samples: 'visit_id NOT IN (SELECT v.id FROM visits v JOIN wells w ON w.id = v.well_id WHERE w.owner_id = 17)',
        }[table] ?? 'TRUE';
      const rows = await plain.query<Record<string, unknown>[]>(`SELECT * FROM ${table} WHERE ${own} LIMIT 12`);
      for (const row of rows) {
        for (const column of known.columns) {
          const outcome = await fault(
            change(ines, table, String(row[known.key[0]!]), { [column.name]: [row[column.name], row[column.name]] }),
          );
          const expected =
            ['advisories', 'analytes'].includes(table) && outcome !== 'done' && outcome[0] === 'Refused'
              ? 'Refused'
              : 'NotFound';
          expect([table, column.name, outcome === 'done' ? 'done' : outcome[0]]).toEqual([
            table,
            column.name,
            expected,
          ]);
          tried++;
        }
      }
    }
    expect(tried).toBeGreaterThan(400);
    expect(await sums()).toEqual(before);
  });

  it('refuse columns that are masked, hidden, keys or not there in the same words', async () => {
    const ines = await member({ owners: 17 });
    for (const column of ['tax_number', 'birth_date', 'id', 'name', 'no_such_column', '__proto__x']) {
      expect(await fault(change(ines, 'owners', '17', { phone: ['x', 'y'], [column]: ['x', 'y'] }))).toEqual([
        'Refused',
        { [column]: "This can't be changed by you." },
      ]);
    }
  });

  it('say beside each column what is wrong, and save nothing of it', async () => {
    const ines = await member({ owners: 17 });
    const phone = await cell('owners', 'phone', 17);
    expect(
      await fault(
        change(ines, 'owners', '17', {
          phone: [phone, '1'.repeat(31)],
          contact_by: ['letter', 'pigeon'],
          postal_address: ['x', null],
        }),
      ),
    ).toEqual([
      'InvalidValues',
      {
        phone: 'This has 31 characters; 30 fit. Shorten it.',
        contact_by: 'Choose one of: e-mail, phone, letter.',
        postal_address: 'This needs a value.',
      },
    ]);
    expect(await cell('owners', 'phone', 17)).toBe(phone);
    const mara = await member({ samplers: 9 }, 9);
    const [taken] = await plain.query<{ seal_number: string }[]>(
      'SELECT seal_number FROM visits WHERE seal_number IS NOT NULL AND sampler_id <> 9 LIMIT 1',
    );
    const [mine] = await plain.query<{ id: number; seal_number: string | null }[]>(
      'SELECT id, seal_number FROM visits WHERE sampler_id = 9 LIMIT 1',
    );
    expect(
      await fault(change(mara, 'visits', String(mine!.id), { seal_number: [mine!.seal_number, taken!.seal_number] })),
    ).toEqual(['InvalidValues', { seal_number: 'This value is already taken. Choose another.' }]);
  });

  it('report a change in between with all three values, and let the same change pass', async () => {
    const ines = await member({ owners: 17 });
    const was = await cell('owners', 'phone', 17);
    await plain.query("UPDATE owners SET phone = 'theirs' WHERE id = 17");
    expect(await fault(change(ines, 'owners', '17', { phone: [was, 'mine'] }))).toEqual([
      'Conflict',
      { phone: { was, now: 'theirs', yours: 'mine' } },
    ]);
    expect(await cell('owners', 'phone', 17)).toBe('theirs');
    expect(await fault(change(ines, 'owners', '17', { phone: [was, 'theirs'] }))).toBe('done');
    expect(await fault(change(ines, 'owners', '17', { phone: ['theirs', 'mine'] }))).toBe('done');
  });

  it('let exactly one of two people at once win', async () => {
    const ines = await member({ owners: 17 });
    const was = await cell('owners', 'phone', 17);
    const outcomes = await Promise.all(
      Array.from({ length: 8 }, (_, i) => fault(change(ines, 'owners', '17', { phone: [was, `at once ${i}`] }))),
    );
    expect(outcomes.filter((outcome) => outcome === 'done')).toHaveLength(1);
    expect(outcomes.filter((outcome) => Array.isArray(outcome) && outcome[0] === 'Conflict')).toHaveLength(7);
  });

  it('keep a record within reach, and relations to records in view', async () => {
    const loose: PortalDefinition = {
      ...definition,
      lifecycles: [],
      access: {
        owners: definition.access.owners!,
        wells: {
          well_owner: {
            see: definition.access.wells!.well_owner!.see!,
            edit: { where: 'as seen', columns: ['state', 'owner_id'] },
          },
        },
        visits: {
          sampler: {
            see: { where: when('sampler_id = :member.samplers.id'), columns: ['well_id', 'sampler_id', 'state'] },
            edit: { where: when("state = 'planned'"), columns: ['well_id', 'sampler_id', 'state'] },
          },
        },
      },
    };
    const ines = await member({ owners: 17 });
    // owner 18 is not in her view of owners, so that relation is as good as none.
    expect(await fault(change(ines, 'wells', '231', { owner_id: [17, 18] }, loose))).toEqual([
      'InvalidValues',
      { owner_id: 'There is no such record. Choose another.' },
    ]);
    expect(await fault(change(ines, 'wells', '231', { owner_id: [17, 999_999] }, loose))).toEqual([
      'InvalidValues',
      { owner_id: 'There is no such record. Choose another.' },
    ]);
    expect(await fault(change(ines, 'wells', '231', { owner_id: [17, null] }, loose))).toEqual(['Refused', {}]);
    expect(await cell('wells', 'owner_id', 231)).toBe(17);
    const mara = await member({ samplers: 9 }, 9);
    const [planned] = await plain.query<{ id: number }[]>(
      "SELECT id FROM visits WHERE sampler_id = 9 AND state = 'planned' LIMIT 1",
    );
    expect(await fault(change(mara, 'visits', String(planned!.id), { state: ['planned', 'reported'] }, loose))).toEqual(
      ['Refused', {}],
    );
    expect(await cell('visits', 'state', planned!.id)).toBe('planned');
    const [reported] = await plain.query<{ id: number }[]>(
      "SELECT id FROM visits WHERE sampler_id = 9 AND state = 'reported' LIMIT 1",
    );
    expect(
      await fault(change(mara, 'visits', String(reported!.id), { state: ['reported', 'planned'] }, loose)),
    ).toEqual(['Refused', { state: "This can't be changed by you." }]);
  });
});
