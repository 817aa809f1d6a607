import { createHash } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import express, { type Request } from 'express';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { plainPools } from './plain-pools';

/**
 * The reference: what a developer would write by hand for a program's list of visits and its file of all of them: the
 * key looked up, the same SQL, the same driver and pool, and no rights, limits, log or headers.
 */
const { own, records } = plainPools(JSON.parse(process.argv[2]!) as DatabaseAddress);
const names = ['id', 'planned_for', 'state', 'seal_number', 'fee', 'paid'];
const selected = names.map((name) => `t0.${name}`).join(', ');
type Cell = string | number | bigint | null;

async function holds(req: Request): Promise<boolean> {
  const [, key = ''] = /^Bearer +(\S{1,200})$/i.exec(req.get('authorization') ?? '') ?? [];
  const [found] = (await own.execute(
    `SELECT k.id, k.role, k.addresses, k.a_minute, UNIX_TIMESTAMP(k.used_at), p.id, p.published_version
      FROM service_keys k JOIN portals p ON p.id = k.portal_id
      WHERE k.key_hash = ? AND p.slug = ? AND (k.ends_at IS NULL OR k.ends_at > NOW())`,
    [createHash('sha256').update(key).digest('base64url'), 'alder-fen'],
  )) as unknown[][];
  return found !== undefined;
}

const shown = (row: Cell[]) => [...row.slice(0, 5), row[5] === null ? null : Number(row[5]) === 1];
const quoted = (value: unknown) => {
  const text = value === null ? '' : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};
const line = (values: unknown[]) => `${values.map(quoted).join(',')}\r\n`;
const app = express();

app.get('/visits', async (req, res) => {
  if (!(await holds(req))) return res.status(401).end();
  const rows = (await records.execute(
    `SELECT t0.planned_for, ${selected} FROM visits t0 ORDER BY t0.planned_for DESC, t0.id DESC LIMIT 101`,
  )) as Cell[][];
  const page = rows.slice(0, 100).map((row) => shown(row.slice(1)));
  const next =
    rows.length > 100 ? Buffer.from(JSON.stringify([rows[99]![0], rows[99]![1]])).toString('base64url') : null;
  if (req.get('accept') === 'text/csv') {
    res.type('text/csv').send(line(names) + page.map(line).join(''));
    return;
  }
  res.json({
    records: page.map((row) => ({
      id: String(row[0]),
      values: Object.fromEntries(names.map((name, i) => [name, row[i]])),
      masked: [],
    })),
    next,
    previous: null,
  });
});

app.get('/all-visits', async (req, res) => {
  if (!(await holds(req))) return res.status(401).end();
  const connection = await records.getConnection();
  try {
    const rows = connection.queryStream(`SELECT ${selected} FROM visits t0 ORDER BY t0.id`);
    res.type('text/csv');
    await pipeline(Readable.from(texts(rows as AsyncIterable<Cell[]>)), res);
  } finally {
    await connection.release();
  }
});

async function* texts(rows: AsyncIterable<Cell[]>): AsyncGenerator<string> {
  let text = line(names);
  for await (const row of rows) {
    text += line(shown(row));
    if (text.length < 65_536) continue;
    yield text;
    text = '';
  }
  yield text;
}

const server = app.listen(0, '127.0.0.1', () => process.send!({ port: (server.address() as AddressInfo).port }));
process.once('disconnect', () => {
  server.close();
  void own.end();
  void records.end();
});
