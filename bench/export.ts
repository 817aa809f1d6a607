import { exportRows } from '../server/gate/gate';
import { createWriteStream, mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createConnection } from 'mariadb';
import { builderPerson } from '../core/access/person';
import { emptyDefinition } from '../core/definition/definition';
import { exportText } from '../server/formats/export-text';
import { MariadbSource } from '../server/sources/mariadb';
import { dumpedByClient } from './client-dump';
import { round, type Figure } from './figures';
import { withMariadb } from './local-databases';

const rows = 1_000_000;
const columns = ['id', 'well_code', 'measured_on', 'value', 'passed', 'remark'];

/** A million records to CSV, through the gate, against the database client's own dump of the same columns. */
export async function exporting(): Promise<Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'stone-porch-bench-'));
  try {
    return await withMariadb(['exporting'], async (address) => {
      const plain = await createConnection({ ...address, database: 'exporting' });
      await plain.query(
        'CREATE TABLE measures (id INT PRIMARY KEY, well_code VARCHAR(20) NOT NULL, measured_on DATE NOT NULL, ' +
          'value DECIMAL(10,2) NULL, passed BOOLEAN NOT NULL, remark VARCHAR(60) NOT NULL)',
      );
      await plain.query(
        `INSERT INTO measures SELECT seq, CONCAT('AF-', LPAD(seq % 520, 4, '0')), '2026-01-01' + INTERVAL seq ` +
          `% 300 DAY, seq / 7, seq % 3, CONCAT('remark ', seq, ', as it came') FROM seq_1_to_${rows}`,
      );
      await plain.end();
      const source = new MariadbSource(address, 'exporting', 2);
      const visit = {
        definition: emptyDefinition({ slug: 'x', name: 'X', timeZone: 'UTC', colour: '#1f5f85' }, 'exporting'),
        catalogue: await source.catalogue(),
        person: builderPerson,
        moment: new Date(),
      };
      const times = { ours: [] as number[], reference: [] as number[] };
      let growth = 0;
      const [file, dump] = [join(folder, 'ours.csv'), join(folder, 'dump.tsv')];
      for (let i = 0; i < 3; i++) {
        global.gc?.();
        const before = process.memoryUsage().rss;
        const from = performance.now();
        const watch = setInterval(() => {
          growth = Math.max(growth, process.memoryUsage().rss - before);
        }, 50);
        await pipeline(
          Readable.from(
            exportText(
              'csv',
              exportRows(source, visit, 'measures', {
                columns: columns.map((column) => [column]),
                sort: [],
                where: [],
                search: '',
              }),
              { guard: true },
            ),
          ),
          createWriteStream(file),
        );
        clearInterval(watch);
        times.ours.push(performance.now() - from);
        const start = performance.now();
        await dumpedByClient(address, 'exporting', `SELECT ${columns.join(', ')} FROM measures ORDER BY id`, dump);
        times.reference.push(performance.now() - start);
        if (statSync(file).size < 4e7 || statSync(dump).size < 4e7)
          throw new Error('a file is too small to hold the records');
      }
      await source.close();
      const best = (name: keyof typeof times) => Math.min(...times[name]);
      return [
        {
          name: `${rows} records to CSV, against the database client's dump`,
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
          aim: 'flat',
        },
      ];
    });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
