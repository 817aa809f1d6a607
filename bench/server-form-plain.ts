import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import express from 'express';
import Joi from 'joi';
import { createPool } from 'mariadb';
import { RateLimiterMemory } from 'rate-limiter-flexible';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/**
 * The reference: what a developer would write by hand for this one form, with the same checks: a signed ticket, a trap,
 * limits per address and in all, each value by its column, a press known again, and what lets it be corrected noted. No
 * rights to work out, no log, no headers.
 */
const address = JSON.parse(process.argv[2]!) as DatabaseAddress;
const pool = (database: string) => createPool({ ...address, database, connectionLimit: 10, rowsAsArray: true });
const own = pool('plain_own');
const records = pool('plain_records');
const key = randomBytes(32);
const sign = (at: string) => createHmac('sha256', key).update(at).digest('base64url');
const one = new RateLimiterMemory({ points: 1_000_000_000, duration: 600 });
const all = new RateLimiterMemory({ points: 1_000_000_000, duration: 60 });
const body = Joi.object({
  values: Joi.object({
    name: Joi.string().max(80).required(),
    email: Joi.string().email({ tlds: false }).max(120).required(),
    phone: Joi.string().allow('', null).max(30),
    parish: Joi.string().max(40).required(),
    message: Joi.string().allow('', null).max(65_535),
  }).required(),
  ticket: Joi.string().max(200).required(),
  press: Joi.string().min(16).max(64).required(),
  further: Joi.string().allow('').default(''),
});
const app = express();
app.use(express.json());
app.get('/form', (_req, res) => {
  const at = String(Date.now());
  res.json({ ticket: `${at}.${sign(at)}` });
});
app.post('/form', async (req, res) => {
  const { error, value } = body.validate(req.body);
  if (error) return void res.status(422).json({ detail: error.message });
  const { values, ticket, press, further } = value as {
    values: Record<string, string | null>;
    ticket: string;
    press: string;
    further: string;
  };
  if (further !== '') return void res.json({});
  const [at = '', signed = ''] = ticket.split('.');
  const [given, known] = [Buffer.from(signed), Buffer.from(sign(at))];
  if (given.length !== known.length || !timingSafeEqual(given, known)) return void res.status(409).end();
  await one.consume(
    createHmac('sha256', key)
      .update(req.ip ?? '')
      .digest('base64url'),
  );
  await all.consume('form');
  const hash = createHash('sha256').update(press).digest('base64url');
  const taken = (await own.execute('INSERT IGNORE INTO presses (hash) VALUES (?)', [hash])) as { affectedRows: number };
  if (taken.affectedRows === 0) {
    const [[answer]] = (await own.execute('SELECT answer FROM presses WHERE hash = ?', [hash])) as [[string | null]];
    return void (answer === null ? res.status(409).end() : res.type('json').send(answer));
  }
  const connection = await records.getConnection();
  let id: number;
  let standing: string;
  try {
    await connection.beginTransaction();
    const made = (await connection.execute(
      'INSERT INTO test_requests (name, email, phone, parish, message) VALUES (?, ?, ?, ?, ?)',
      [values.name, values.email, values.phone || null, values.parish, values.message || null],
    )) as { insertId: bigint };
    id = Number(made.insertId);
    const [row] = (await connection.execute('SELECT * FROM test_requests WHERE id = ?', [id])) as unknown[][];
    standing = createHash('sha256').update(JSON.stringify(row)).digest('base64url');
    await connection.commit();
  } catch (problem) {
    await connection.rollback();
    await own.execute('DELETE FROM presses WHERE hash = ?', [hash]);
    throw problem;
  } finally {
    await connection.release();
  }
  const receipt = createHmac('sha256', key).update(press).digest('base64url');
  await own.execute('INSERT INTO receipts (token_hash, until, correctable) VALUES (?, NOW() + INTERVAL 30 MINUTE, ?)', [
    createHash('sha256').update(receipt).digest('hex'),
    JSON.stringify({ id, standing }),
  ]);
  const answer = JSON.stringify({ id: null, says: 'Thank you.', receipt });
  await own.execute('UPDATE presses SET answer = ? WHERE hash = ?', [answer, hash]);
  res.type('json').send(answer);
});

const server = app.listen(0, '127.0.0.1', () => process.send!({ port: (server.address() as AddressInfo).port }));
process.once('disconnect', () => {
  server.close();
  void own.end();
  void records.end();
});
