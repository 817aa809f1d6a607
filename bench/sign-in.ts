import { createHash, createHmac, randomBytes } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import { parseCookie } from 'cookie';
import express from 'express';
import { createConnection, createPool, type Connection, type Pool } from 'mariadb';
import { signInFailures } from '../server/sessions/failures';
import type { SignInFailures } from '../server/sessions/failures';
import { tokenHash } from '../server/sessions/sessions';
import { hashOfCode } from '../server/sign-in/code-hash';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Portal } from '../server/store/models';
import { Member } from '../server/store/people-models';
import { publishDraft } from '../server/versions/publish';
import { demoServer } from '../test/server';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';

const rounds = 20;
const perRound = 50;
const code = '123456';
const email = 'ines.brannock@example.org';

/**
 * Signing in by a code that was sent, end to end over HTTP without the mail: the product against a route written by
 * hand with the same hashes, statements, driver and limits, in turns in one process.
 */
export function signingIn(): Promise<Figure[]> {
  return withMariadb(['door', 'door_own'], async (address) => {
    const { server, base } = await demoServer(address, 'door', 'door_own');
    const { services } = server;
    const plain = await connect(address);
    const reference = await byHand(address, services.calls.key, signInFailures(services.store.sequelize));
    try {
      const portal = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
      const draft = JSON.parse(portal.draft) as { signIn?: object };
      draft.signIn = { methods: ['password', 'code'] };
      await portal.update({ draft: JSON.stringify(draft), revision: portal.revision + 1 });
      await publishDraft(services.store.sequelize, portal.id, portal.revision, '', 'bench');
      const { id: memberId } = await Member.findOne({ where: { email }, rejectOnEmpty: true });
      const browser = randomBytes(24).toString('base64url');
      const ways = {
        ours: `${base}/api/portals/alder-fen/sign-in/code`,
        reference: `http://127.0.0.1:${reference.port}/sign-in/code`,
      };
      const times = { ours: [] as number[], reference: [] as number[] };
      const one = async (way: keyof typeof ways): Promise<number> => {
        await makeCall(plain, portal.id, services.calls.key, browser);
        const from = performance.now();
        const answer = await fetch(ways[way], {
          method: 'POST',
          headers: {
            'content-type': 'application/json',
            'x-stone-porch': 'bench',
            cookie: `stone_porch_door=${browser}`,
          },
          body: JSON.stringify({ email, code }),
        });
        const said = (await answer.json()) as { name: string };
        const taken = performance.now() - from;
        if (answer.status !== 200 || said.name !== 'Ines Brannock') throw new Error(`${way}: ${answer.status}`);
        return taken;
      };
      for (let i = 0; i < perRound; i++) {
        await one('ours');
        await one('reference');
      }
      for (let i = 0; i < rounds; i++)
        for (const way of ['ours', 'reference'] as const)
          for (let j = 0; j < perRound; j++) times[way].push(await one(way));
      const [{ sessions }] = (await plain.query('SELECT COUNT(*) sessions FROM sessions WHERE member_id = ?', [
        memberId,
      ])) as [{ sessions: bigint }];
      if (Number(sessions) !== 2 * (rounds + 1) * perRound) throw new Error(`${sessions} sessions were begun`);
      const [ours, hand] = [quantile(times.ours, 0.5), quantile(times.reference, 0.5)];
      return [
        {
          name: 'signing in by a code, against a route by hand',
          ours: round(ours),
          reference: round(hand),
          unit: 'ms',
          ratio: round(ours / hand),
          aim: '1.2 or less',
        },
      ];
    } finally {
      reference.close();
      await plain.end();
      await server.close();
    }
  });
}

const connect = ({ host, port, socketPath, user, password }: DatabaseAddress): Promise<Connection> =>
  createConnection({ host, port, socketPath, user, password, database: 'door_own' });

/** What a mail would have told: a code that waits for its browser. */
async function makeCall(plain: Connection, portalId: number, key: Buffer, browser: string): Promise<void> {
  const { insertId } = (await plain.query(
    `INSERT INTO door_calls (portal_id, email, wants, browser_hash, state, made_at, ends_at)
      VALUES (?, ?, 'code', ?, 'sent', NOW(3), NOW(3) + INTERVAL 10 MINUTE)`,
    [portalId, email, tokenHash(browser)],
  )) as { insertId: bigint };
  await plain.query('UPDATE door_calls SET code_hash = ? WHERE id = ?', [
    hashOfCode(key, Number(insertId), code),
    insertId,
  ]);
}

/** The route as somebody would write it who knows what it must do: no rights, no further doors, no log, no forms. */
async function byHand(
  address: DatabaseAddress,
  key: Buffer,
  failures: SignInFailures,
): Promise<{ port: number; close: () => void }> {
  const { host, port, socketPath, user, password } = address;
  const common = { host, port, socketPath, user, password, connectionLimit: 10, bigIntAsNumber: true };
  const own = createPool({ ...common, database: 'door_own' });
  const records = createPool({ ...common, database: 'door' });
  const one = async (pool: Pool, text: string, params: unknown[]): Promise<Record<string, unknown> | undefined> =>
    ((await pool.execute(text, params)) as Record<string, unknown>[])[0];
  const app = express();
  app.use(express.json());
  app.post('/sign-in/code', async (req, res) => {
    const { email: typed, code: given } = req.body as { email: string; code: string };
    const known = typed.trim().toLowerCase();
    const who = `by hand\n${known}`;
    const from = req.ip ?? '';
    if ((await failures.begin(who, from)) > 0) return res.status(429).end();
    const portal = (await one(own, 'SELECT id, slug, published_version FROM portals WHERE slug = ?', ['alder-fen']))!;
    const browser = createHash('sha256')
      .update(parseCookie(req.headers.cookie ?? '').stone_porch_door ?? '')
      .digest('hex');
    const call = await one(
      own,
      `SELECT id, code_hash FROM door_calls WHERE portal_id = ? AND email = ? AND wants = 'code' AND browser_hash = ?
        AND ends_at > UTC_TIMESTAMP(3) ORDER BY id DESC LIMIT 1`,
      [portal.id, known, browser],
    );
    await own.execute('UPDATE door_calls SET tries = tries + 1 WHERE id = ? AND tries < 5', [call?.id ?? 0]);
    const isRight =
      createHmac('sha256', key)
        .update(`${String(call?.id)}:${given}`)
        .digest('hex') === call?.code_hash;
    const used = await own.execute("UPDATE door_calls SET state = 'used' WHERE id = ? AND state = 'sent'", [
      call?.id ?? 0,
    ]);
    if (!isRight || (used as { affectedRows: number }).affectedRows !== 1) return res.status(401).end();
    const rows = await Promise.all(
      ['owners', 'samplers', 'lab_staff', 'staff'].map(
        (table) =>
          records.execute(
            `SELECT id, email, name FROM ${table} WHERE LOWER(TRIM(CONVERT(COALESCE(email, '') USING utf8mb4)))
              COLLATE utf8mb4_bin IN (?)`,
            [known],
          ) as Promise<{ id: number }[]>,
      ),
    );
    const member = (await one(
      own,
      'SELECT id, name, suspended FROM members WHERE portal_id = ? AND email = ? AND on_roster',
      [portal.id, known],
    ))!;
    const rowOf = await one(own, 'SELECT roster_table, row_key FROM memberships WHERE member_id = ? AND holds', [
      member.id,
    ]);
    if (rows.flat().length !== 1 || member.suspended !== null || rowOf === undefined) return res.status(401).end();
    await failures.succeeded(who, from);
    await failures.succeeded(`code ${who}`, from);
    const second = await one(own, 'SELECT COUNT(*) many FROM second_factors WHERE member_id = ?', [member.id]);
    if (Number(second!.many) > 0) return res.status(403).end();
    const token = randomBytes(32).toString('base64url');
    await own.execute(
      `INSERT INTO sessions (token_hash, member_id, expires_at, seen_at, began_at, device)
        VALUES (?, ?, UTC_TIMESTAMP() + INTERVAL 7 DAY, UTC_TIMESTAMP(), UTC_TIMESTAMP(), ?)`,
      [createHash('sha256').update(token).digest('hex'), member.id, req.get('user-agent') ?? null],
    );
    await own.execute('UPDATE members SET last_in = UTC_TIMESTAMP() WHERE id = ?', [member.id]);
    res.cookie('stone_porch_member', token, { httpOnly: true, sameSite: 'lax', path: '/' });
    res.json({ name: member.name, lacks: null });
  });
  const listening = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => listening.once('listening', resolve));
  return {
    port: (listening.address() as AddressInfo).port,
    close: () => {
      listening.close();
      void own.end();
      void records.end();
    },
  };
}
