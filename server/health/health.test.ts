import { createServer, type Server } from 'node:net';
import type { AddressInfo } from 'node:net';
import express from 'express';
import { expect, inject, it } from 'vitest';
import { Client, demoServer } from '../../test/server';
import { problemHandler } from '../http/problems';
import { connectSequelize } from '../sources/connect-sequelize';
import { alone } from '../processes/among';
import { ShareWaited } from './cluster-state';
import { healthRoutes } from './health';
import { Metrics } from './metrics';

const listening = (server: Server | ReturnType<express.Express['listen']>) =>
  new Promise<number>((resolve) => server.once('listening', () => resolve((server.address() as AddressInfo).port)));

it('says that it lives, and that it is not ready while its database does not answer, or not in time', async () => {
  // One that lets come and says nothing.
  const silent = createServer((socket) => void socket.on('error', () => undefined)).listen(0, '127.0.0.1');
  const shut = createServer().listen(0, '127.0.0.1');
  const [silentPort, shutPort] = (await Promise.all([silent, shut].map(listening))) as [number, number];
  await new Promise((resolve) => shut.close(resolve));
  for (const port of [silentPort, shutPort]) {
    const sequelize = connectSequelize({ host: '127.0.0.1', port, user: 'x', password: 'x' }, 'x', 1);
    const app = express().use(
      '/health',
      healthRoutes({ store: { sequelize, close: () => sequelize.close() }, among: alone() }),
    );
    const door = app.listen(0, '127.0.0.1');
    const at = `http://127.0.0.1:${await listening(door)}/health`;
    expect([(await fetch(`${at}/live`)).status, (await fetch(`${at}/ready`)).status]).toEqual([200, 503]);
    await new Promise((resolve) => door.close(resolve));
  }
  silent.close();
}, 60_000);

it('tells its numbers to whoever has the token, and nobody’s names', async () => {
  const { server, base } = await demoServer(inject('database'), 'health', 'health_own');
  try {
    expect([(await fetch(`${base}/health/ready`)).status, (await fetch(`${base}/metrics`)).status]).toEqual([200, 404]);
    const metrics = new Metrics(server.services);
    const token = 'sixteen-letters-and-more';
    const app = express().use(metrics.watch);
    app.get('/metrics', metrics.tell(token));
    app.use(problemHandler(server.services.log));
    const door = app.listen(0, '127.0.0.1');
    const at = `http://127.0.0.1:${await listening(door)}`;
    const ask = (path: string, headers: Record<string, string> = {}) => fetch(`${at}${path}`, { headers });
    await ask('/api/portals/alder-fen/records/owners?search=Brannock');
    // Whoever asks for whatever they like makes no more of them.
    for (let i = 0; i < 50; i++) await ask(`/p${i}/Brannock-${i}`);
    await ask('/p/alder-fen/my-wells');
    const wrong: Record<string, string>[] = [{}, { authorization: `Bearer ${token}x` }, { authorization: token }];
    for (const headers of wrong) expect((await ask('/metrics', headers)).status).toBe(401);
    const told = await ask('/metrics', { authorization: `Bearer ${token}` });
    expect([told.status, told.headers.get('content-type')]).toEqual([200, expect.stringContaining('text/plain')]);
    const lines = (await told.text()).split('\n');
    expect(lines).toContainEqual(
      expect.stringMatching(/^stone_porch_request_seconds_count\{method="GET",area="api\/portals",status="4xx"\} 1$/),
    );
    const told404 = (area: string) =>
      lines.filter((each) => each.startsWith('stone_porch_request_seconds_count') && each.includes(`area="${area}"`));
    expect([told404('other'), told404('p')].map(([first, ...more]) => [first?.split(' ').at(-1), more.length])).toEqual(
      [
        ['50', 0],
        ['1', 0],
      ],
    );
    expect(lines).toContainEqual(expect.stringMatching(/^stone_porch_sessions \d+$/));
    expect(lines).toContainEqual(expect.stringMatching(/^stone_porch_own_connections\{state="open"\} [1-9]/));
    expect(lines.join('\n')).not.toMatch(/Brannock|example\.org|alder-fen/);
    // Each line is what the format says it is.
    const line = /^(# (HELP|TYPE) \w+ .+|[a-z_:][\w:]*(\{(\w+="[^"]*",?)*\})? (-?[\d.e+-]+|Nan|\+Inf))?$/i;
    expect(lines.filter((each) => !line.test(each))).toEqual([]);
    await new Promise((resolve) => door.close(resolve));
    expect((await new Client(base).get('/portals/alder-fen/door')).status).toBe(200);
  } finally {
    await server.close();
  }
});

it('says which share of the time writes waited for a slow node, and nothing where another node answers', () => {
  const share = new ShareWaited();
  const looks: [waited: number, at: number][] = [
    [10, 0],
    [10.5, 1000],
    [10.5, 2000],
    [14, 4000],
    [1, 5000],
    [1.25, 5500],
    [1.25, 5500],
  ];
  expect(looks.map(([waited, at]) => share.take(waited, at))).toEqual([0, 0.5, 0, 1, 0, 0.5, 0]);
});
