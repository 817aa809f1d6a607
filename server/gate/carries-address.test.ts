import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import type { Roster } from '../../core/definition/definition';
import { name, sql } from '../../core/sql/sql';
import { findTable } from '../../core/table/catalogue';
import { freshSchema } from '../../test/tables';
import { MariadbSource } from '../sources/mariadb';
import { carriesAddress, ignoringCase, secondCodes } from './facts/carries-address';
import { rosterRepeats, rosterRows } from './facts/roster';

/** Rows of a roster by their address: by an index, where there is one that can tell, the same are found as without. */
const schema = 'carries';
let plain: Connection;
let source: MariadbSource;

/** The same address in all ways of writing it, others that look like it, and none. */
const written = [
  'ines@example.org',
  'Ines@Example.ORG',
  '  ines@example.org',
  'ines@example.org   ',
  ' INES@EXAMPLE.ORG ',
  'inés@example.org',
  'ines@example.orgs',
  'xines@example.org',
  '\tines@example.org',
  'straße@example.org',
  'strasse@example.org',
  'STRASSE@example.org',
  'żółw@example.org',
  'ŻÓŁW@example.org',
  'zolw@example.org',
  'i%@example.org',
  'kalå@example.org',
  '\u212Aal\u212B@example.org',
  'k'.repeat(12) + '@example.org',
  '\u212A'.repeat(12) + '@example.org',
  ' ',
  '',
  null,
];
const sought = [
  'ines@example.org',
  'strasse@example.org',
  'straße@example.org',
  'żółw@example.org',
  'i%@example.org',
  'kalå@example.org',
];
/** So many ways of writing it that all rows are looked at. */
const wide = 'k'.repeat(12) + '@example.org';

const tables = [
  ['general', 'utf8mb4 COLLATE utf8mb4_general_ci'],
  ['unicode', 'utf8mb4 COLLATE utf8mb4_unicode_ci'],
  ['older', 'utf8mb3 COLLATE utf8mb3_general_ci'],
  ['exact', 'utf8mb4 COLLATE utf8mb4_bin'],
] as const;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), schema);
  for (const [table, collation] of tables)
    for (const [suffix, key] of [
      ['', ', KEY (email)'],
      ['_bare', ''],
    ] as const) {
      await plain.query(
        `CREATE TABLE ${table}${suffix} (id INT AUTO_INCREMENT PRIMARY KEY,
          email VARCHAR(80) CHARACTER SET ${collation} NULL${key})`,
      );
      await plain.batch(
        `INSERT INTO ${table}${suffix} (email) VALUES (?)`,
        written.map((each) => [each]),
      );
      await plain.query(
        `INSERT INTO ${table}${suffix} (email) SELECT CONCAT('o', seq, '@example.org') FROM seq_1_to_3000`,
      );
      await plain.query(`ANALYZE TABLE ${table}${suffix}`);
    }
  source = new MariadbSource(inject('database'), schema);
});
afterAll(async () => {
  await source?.close();
  await plain?.end();
});

it('finds the same rows by an index as by looking at all of them', async () => {
  const catalogue = await source.catalogue();
  const roster = (table: string): Roster => ({ table, name: 'email', email: 'email', role: 'owner' });
  for (const [table] of tables) {
    for (const emails of [...sought.map((each) => [each]), sought, [wide], ['nobody@example.org']]) {
      const by = async (of: string) =>
        (await rosterRows(source, catalogue, roster(of), { emails }))!.toSorted(
          (a, b) => Number(a.key) - Number(b.key),
        );
      const [found, all] = [await by(table), await by(`${table}_bare`)];
      expect([table, emails, found]).toEqual([table, emails, all]);
      if (emails[0] === 'ines@example.org') expect(found.length).toBeGreaterThanOrEqual(5);
      if (emails[0] === 'kalå@example.org' || emails[0] === wide) expect(found).toHaveLength(2);
      if (emails[0] === 'nobody@example.org') expect(found).toEqual([]);
    }
    const repeats = (of: string) => rosterRepeats(source, catalogue, roster(of), sought);
    expect([table, await repeats(table)]).toEqual([table, await repeats(`${table}_bare`)]);
    expect(await repeats(table)).toContain('ines@example.org');
    const condition = carriesAddress(catalogue, findTable(catalogue, table)!, 'email', name('t0'), sought.slice(0, 1));
    const [plan] = await source.rows(sql`EXPLAIN SELECT t0.${name('id')} FROM ${name(table)} t0 WHERE ${condition}`);
    expect([table, plan!.includes('range')]).toEqual([table, table !== 'exact']);
  }
});

it('knows which letters a collation tells apart from their lower case', async () => {
  const all = await plain.query<{ name: string }[]>('SELECT COLLATION_NAME name FROM information_schema.COLLATIONS');
  const known = all
    .map(({ name: each }) => (each.startsWith('uca1400') ? `utf8mb4_${each}` : each))
    .flatMap((collation) => {
      const charset = ignoringCase.exec(collation)?.[1];
      return charset ? [{ collation, charset }] : [];
    });
  expect(known.map(({ collation }) => collation)).toEqual(
    expect.arrayContaining(['utf8mb4_general_ci', 'utf8mb4_unicode_ci', 'utf8mb3_general_ci']),
  );
  for (const { collation, charset } of known) {
    const there = (text: string) => `CONVERT(${text} USING ${charset}) COLLATE ${collation}`;
    const lower = there('LOWER(sign)');
    const apart = await plain.query<{ sign: string }[]>(
      `SELECT sign FROM (SELECT CONVERT(CHAR(seq USING utf32) USING utf8mb4) sign FROM
          seq_33_to_${charset === 'utf8mb3' ? 0xffff : 0x10ffff} WHERE seq NOT BETWEEN 0xD800 AND 0xDFFF) signs
        WHERE LOWER(sign) COLLATE utf8mb4_bin <> sign COLLATE utf8mb4_bin
          AND (${there('sign')} <> ${lower} OR ${there("CONCAT(sign, ' ')")} <> ${lower})`,
    );
    const expected = collation.includes('general') ? [...secondCodes.values()] : [];
    expect([collation, apart.map(({ sign }) => sign)]).toEqual([collation, expected]);
  }
});
