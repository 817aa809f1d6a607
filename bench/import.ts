import { once } from 'node:events';
import { createReadStream, createWriteStream, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection } from 'mariadb';
import { Random } from '../core/proof/random';
import { fileToTable, previewFile } from '../server/imports/file-to-table';
import { MariadbSource } from '../server/sources/mariadb';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { round, type Figure } from './figures';
import { withMariadb } from './local-databases';

const rows = 100_000;
const many = 1_000_000;

/**
 * A CSV of 100,000 rows becomes a table: read, checked cell by cell and written, against LOAD DATA of the same file
 * into the same table.
 */
export async function importing(): Promise<Figure[]> {
  const random = new Random(1);
  const csv = Buffer.from(
    [
      'code,measured_on,value,passed,remark',
      ...Array.from(
        { length: rows },
        (_, i) =>
          `W-${i},2026-0${random.int(1, 9)}-${random.int(10, 28)},${random.int(0, 90)}.${random.digits(2)},` +
          `${random.chance(0.9) ? 'true' : 'false'},"remark ${i}, ${random.digits(12)}"`,
      ),
    ].join('\n'),
  );
  const folder = mkdtempSync(join(tmpdir(), 'stone-porch-bench-'));
  const file = join(folder, 'values.csv');
  writeFileSync(file, csv);
  try {
    return await withMariadb(['importing'], async (address) => {
      const source = new MariadbSource(address, 'importing', 2);
      const plain = await createConnection({ ...address, database: 'importing', permitLocalInfile: true });
      const times = { ours: [] as number[], reference: [] as number[] };
      let growth = 0;
      try {
        for (let i = 0; i < 5; i++) {
          await plain.query('DROP TABLE IF EXISTS ours, bare');
          global.gc?.();
          const memory = process.memoryUsage().rss;
          const bytes = () => createReadStream(file) as AsyncIterable<Buffer>;
          const { columns, facts } = await previewFile(bytes);
          const from = performance.now();
          await fileToTable(source, await source.catalogue(true), bytes, facts, { name: 'ours', columns });
          times.ours.push(performance.now() - from);
          growth = Math.max(growth, process.memoryUsage().rss - memory);
          await plain.query('CREATE TABLE bare LIKE ours');
          const start = performance.now();
          await plain.query(
            `LOAD DATA LOCAL INFILE '${file}' INTO TABLE bare CHARACTER SET utf8mb4 FIELDS TERMINATED BY ',' ` +
              `OPTIONALLY ENCLOSED BY '"' IGNORE 1 LINES (code, measured_on, value, @passed, remark) SET passed ` +
              `= @passed = 'true'`,
          );
          times.reference.push(performance.now() - start);
          const [sums] = await plain.query<Record<string, unknown>[][]>({
            sql:
              'SELECT (SELECT COUNT(*) FROM ours), (SELECT SUM(value) FROM ours), (SELECT SUM(passed) FROM ' +
              'ours), (SELECT COUNT(*) FROM bare), (SELECT SUM(value) FROM bare), (SELECT SUM(passed) FROM bare)',
            rowsAsArray: true,
          });
          const found = (sums as unknown[]).map(String);
          if (found.slice(0, 3).join() !== found.slice(3).join())
            throw new Error(`the two tables differ: ${found.join()}`);
        }
      } finally {
        await source.close();
        await plain.end();
      }
      const grown = await growthOfMany(address, folder);
      const best = (name: keyof typeof times) => Math.min(...times[name]);
      return [
        {
          name: `${rows} rows of CSV, against LOAD DATA`,
          ours: round(best('ours') / 1000, 2),
          reference: round(best('reference') / 1000, 2),
          unit: 's',
          ratio: round(best('ours') / best('reference'), 2),
          aim: '3 or less',
        },
        {
          name: 'memory growth meanwhile, against the aim',
          ours: Math.round(growth / 1e6),
          reference: 256,
          unit: 'MB',
          ratio: round(growth / 2.56e8),
          aim: '256 MB or less',
        },
        {
          name: `memory growth with ${many} rows, against the aim`,
          ours: Math.round(grown / 1e6),
          reference: 256,
          unit: 'MB',
          ratio: round(grown / 2.56e8),
          aim: '256 MB or less',
        },
      ];
    });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Memory while a million rows are read through and become a table, over what the process had before. */
async function growthOfMany(address: DatabaseAddress, folder: string): Promise<number> {
  const file = join(folder, 'many.csv');
  const out = createWriteStream(file);
  out.write('code,measured_on,value,passed,remark\n');
  for (let i = 0; i < many; i++)
    if (
      !out.write(
        `W-${i},2026-0${1 + (i % 9)}-${10 + (i % 18)},${i % 90}.${10 + (i % 90)},${i % 10 > 0},"remark ${i}, ` +
          'as it came"\n',
      )
    )
      await once(out, 'drain');
  out.end();
  await once(out, 'finish');
  const source = new MariadbSource(address, 'importing', 2);
  global.gc?.();
  const before = process.memoryUsage().rss;
  let growth = 0;
  const watch = setInterval(() => {
    growth = Math.max(growth, process.memoryUsage().rss - before);
  }, 50);
  try {
    const bytes = () => createReadStream(file) as AsyncIterable<Buffer>;
    const { columns, facts } = await previewFile(bytes);
    const made = await fileToTable(source, await source.catalogue(true), bytes, facts, { name: 'many_rows', columns });
    if (made !== many) throw new Error(`${made} rows were made of ${many}`);
  } finally {
    clearInterval(watch);
    await source.close();
  }
  return growth;
}
