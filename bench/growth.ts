import { createConnection, type Connection } from 'mariadb';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

const atLeast = 50_000;

/** The tables of the product's own that grow with use, what a row of them is, and when it goes. */
const growing: { table: string; row: string; goes: string }[] = [
  { table: 'members', row: 'a member', goes: 'never; erased by request' },
  { table: 'memberships', row: 'a member on a roster', goes: 'with the member' },
  { table: 'sessions', row: 'a browser that is signed in', goes: 'when it has ended' },
  { table: 'audit_log', row: 'a decision of a builder, or a sign-in', goes: 'never' },
  {
    table: 'record_changes',
    row: 'a change of a record, where history is kept',
    goes: 'after the days that the table says',
  },
];

/** How many bytes a row of each of them takes with its indexes; those of few rows are filled up before. */
export async function bytesOfRows(address: DatabaseAddress): Promise<string[]> {
  const connection = await createConnection({ ...address, database: 'stone_porch', bigIntAsNumber: true });
  try {
    const lines: string[] = [];
    for (const { table, row, goes } of growing) {
      await fill(connection, table);
      await connection.query(`ANALYZE TABLE ${table}`);
      const [{ bytes, rows }] = await connection.query<[{ bytes: number; rows: number }]>(
        `SELECT DATA_LENGTH + INDEX_LENGTH bytes, (SELECT COUNT(*) FROM ${table}) \`rows\`
          FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = ?`,
        [table],
      );
      lines.push(`| \`${table}\` | ${row} | ${Math.round(bytes / rows)} | ${goes} |`);
    }
    return ['| table | a row is | bytes with indexes | goes |', '| --- | --- | --- | --- |', ...lines];
  } finally {
    await connection.end();
  }
}

/** Doubles a table's rows until there are enough for its pages to be as full as they become. */
async function fill(connection: Connection, table: string): Promise<void> {
  const columns = await connection.query<{ name: string; extra: string; type: string; key: string }[]>(
    `SELECT COLUMN_NAME name, EXTRA extra, COLUMN_TYPE type, COLUMN_KEY \`key\` FROM information_schema.COLUMNS
      WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = ?`,
    [table],
  );
  const count = async () => (await connection.query<[{ n: number }]>(`SELECT COUNT(*) n FROM ${table}`))[0].n;
  const given = columns.filter(({ extra }) => !/auto_increment|GENERATED/i.test(extra));
  // What tells rows apart is drawn by lot: it is as long as any other.
  const value = ({ name, key }: (typeof given)[number]) => (key === 'PRI' ? `SHA2(UUID(), 256)` : `\`${name}\``);
  for (let rows = await count(); rows < atLeast; rows = await count()) {
    if (rows === 0) throw new Error(`${table} has no row to go by`);
    await connection.query(
      `INSERT INTO ${table} (${given.map(({ name }) => `\`${name}\``).join(', ')})
        SELECT ${given.map(value).join(', ')} FROM ${table}`,
    );
  }
}
