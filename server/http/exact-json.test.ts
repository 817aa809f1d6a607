import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import express, { type ErrorRequestHandler } from 'express';
import fc from 'fast-check';
import { isSafeNumber } from 'lossless-json';
import { expect, it } from 'vitest';
import { exactJson, mayBeRounded } from './exact-json';

/** Numbers as RFC 8259 has them written, of every length. */
const digits = (least: number) => fc.stringMatching(new RegExp(`^\\d{${least},24}$`));
const number = fc
  .tuple(
    fc.constantFrom('', '-'),
    fc.oneof(fc.constant('0'), fc.stringMatching(/^[1-9]\d{0,24}$/)),
    fc.option(digits(1), { nil: null }),
    fc.option(fc.stringMatching(/^[eE][+-]?\d{1,3}$/), { nil: '' }),
  )
  .map(([sign, whole, part, power]) => `${sign}${whole}${part === null ? '' : `.${part}`}${power}`);
const gap = fc.stringMatching(/^[ \n\r\t]{0,2}$/);

it('finds each number that JavaScript would round, wherever it stands', () => {
  const places = fc.constantFrom<(value: string, gap: string) => string>(
    (value, at) => `${at}${value}${at}`,
    (value, at) => `[${at}${value}${at}]`,
    (value, at) => `[1,${at}${value}${at}, 2]`,
    (value, at) => `{"a"${at}:${at}${value}${at}, "b": "c"}`,
    (value, at) => `[[{"a": [null, {"b":${at}${value}}]}]]`,
  );
  let rounded = 0;
  fc.assert(
    fc.property(places, number, gap, (place, value, at) => {
      const json = place(value, at);
      JSON.parse(json);
      if (isSafeNumber(value)) return;
      rounded++;
      expect(mayBeRounded(json)).toBe(true);
    }),
    { numRuns: 3000, seed: 20261201 },
  );
  expect(rounded).toBeGreaterThan(1000);
});

it('takes the letters and digits of a token for no number', () => {
  const token = { ticket: '1764576000000.q3E5e8_1234567890123456789', press: 'a9e-12e', values: { name: '4E 17' } };
  expect(mayBeRounded(JSON.stringify(token))).toBe(false);
  expect(mayBeRounded(JSON.stringify({ ...token, id: 7.25 }))).toBe(false);
});

it('reads UTF-8 alone, where no number is rounded, and says so of whatever else', async () => {
  const refuse: ErrorRequestHandler = (error: { status: number }, _req, res, _next) => {
    res.status(error.status).end();
  };
  const app = express();
  app.use(...exactJson('1kb'));
  app.use((req, res) => void res.json(req.body));
  app.use(refuse);
  const server = app.listen(0, '127.0.0.1');
  try {
    await once(server, 'listening');
    const at = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const json = '{"exact":12345678901234567891}';
    const send = async (body: Buffer, charset: string) => {
      const headers = { 'content-type': `application/json${charset}` };
      const answer = await fetch(at, { method: 'POST', headers, body: new Uint8Array(body) });
      return [answer.status, await answer.text()];
    };
    const whole = [200, '{"exact":"12345678901234567891"}'];
    for (const charset of ['', '; charset=utf-8', '; charset=UTF-8'])
      expect(await send(Buffer.from(json), charset)).toEqual(whole);
    const others = { 'utf-16': 'utf16le', 'utf-16le': 'utf16le', 'utf-7': 'ascii', latin1: 'latin1' } as const;
    for (const [charset, as] of Object.entries(others))
      expect((await send(Buffer.from(json, as), `; charset=${charset}`))[0]).toBe(415);
  } finally {
    server.close();
  }
});
