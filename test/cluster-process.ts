import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { setTimeout as sleep } from 'node:timers/promises';
import { createConnection, type Connection, type ConnectionConfig } from 'mariadb';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { isProcess } from '../start/local-mariadb';

export const nodeNames = ['node-1', 'node-2', 'node-3'];
export const serverNames = ['porch-1', 'porch-2'];

/** `npm run cluster` in a process of its own, and what may be known of it from outside. */
export class ClusterProcess {
  /** All that it has said since it was started. */
  said = '';
  private child: ChildProcess | null = null;

  constructor(
    private readonly folder: string,
    readonly port: number,
    private readonly args: readonly string[] = [],
    private readonly env: Record<string, string> = {},
  ) {}

  async start(): Promise<void> {
    this.said = '';
    const begun = spawn(
      process.execPath,
      ['start/cluster-start.mjs', ...this.args, '--data', this.folder, '--port', String(this.port)],
      { env: { ...process.env, STONE_PORCH_LOG: 'error', ...this.env } },
    );
    this.child = begun;
    for (const stream of [begun.stdout, begun.stderr])
      stream.on('data', (part: Buffer) => (this.said += part.toString()));
    while (!/ {2}porch-2 http/.test(this.said)) {
      if (begun.exitCode !== null) throw new Error(this.said);
      await sleep(50);
    }
  }

  get hasEnded(): boolean {
    return !this.child || this.child.exitCode !== null || this.child.signalCode !== null;
  }

  /** Ends it; says how it ended and which of its nodes are left. */
  async stop(): Promise<{ code: number | null; left: string[] }> {
    const { child } = this;
    if (!child) return { code: 0, left: [] };
    child.kill('SIGTERM');
    while (child.exitCode === null && child.signalCode === null) await sleep(50);
    this.child = null;
    return { code: child.exitCode, left: nodeNames.filter((name) => isProcess(this.pidOfNode(name), this.folder)) };
  }

  /** What the servers logged that is a fault, each with how often it came. */
  faults(): Map<string, number> {
    const found = new Map<string, number>();
    for (const name of serverNames)
      for (const line of readFileSync(join(this.folder, `${name}.log`), 'utf8').split('\n'))
        if (line.startsWith('{')) {
          const { fault } = JSON.parse(line) as { fault?: object };
          const what = JSON.stringify(fault);
          if (fault) found.set(what, (found.get(what) ?? 0) + 1);
        }
    return found;
  }

  /** Sends a node or a server a signal. Throws where it has ended: one to number 0 would reach all of us. */
  signal(name: string, signal: NodeJS.Signals): void {
    const pid = nodeNames.includes(name) ? this.pidOfNode(name) : this.pidOfServer(name);
    if (pid === 0) throw new Error(`${name} has ended`);
    process.kill(pid, signal);
  }

  /** The number of a node's process, 0 where it has ended. */
  pidOfNode(node: string): number {
    const file = join(this.folder, node, 'run', 'mariadbd.pid');
    return existsSync(file) ? Number(readFileSync(file, 'utf8')) : 0;
  }

  pidOfServer(name: string): number {
    const file = join(this.folder, name, 'running.json');
    return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as { pid: number }).pid : 0;
  }

  /** The port at which a node or a server listens. */
  portOf(name: string): number {
    return Number(new RegExp(`${name} +(?:http://localhost|127.0.0.1):(\\d+)`).exec(this.said)![1]);
  }

  addressOf(node: string): DatabaseAddress {
    const secrets = JSON.parse(readFileSync(join(this.folder, 'secrets.json'), 'utf8')) as { databasePassword: string };
    return { host: '127.0.0.1', port: this.portOf(node), user: 'stone_porch', password: secrets.databasePassword };
  }

  onNode<T>(node: string, work: (connection: Connection) => Promise<T>): Promise<T> {
    return this.connected({ ...this.addressOf(node), connectTimeout: 10_000 }, work);
  }

  /** As the one who runs the node's machine, at its socket. */
  asKeeper<T>(node: string, work: (connection: Connection) => Promise<T>): Promise<T> {
    const socketPath = join(this.folder, node, 'run', 'db.sock');
    return this.connected({ socketPath, user: userInfo().username, connectTimeout: 10_000 }, work);
  }

  private async connected<T>(at: ConnectionConfig, work: (connection: Connection) => Promise<T>): Promise<T> {
    const connection = await createConnection(at);
    try {
      return await work(connection);
    } finally {
      await connection.end();
    }
  }

  /** Whether each node holds the same in every table of the schemas, as MariaDB's checksums say. */
  async isAlike(schemas: readonly string[]): Promise<boolean> {
    const [first, ...others] = await Promise.all(nodeNames.map((node) => this.sums(node, schemas)));
    return others.every((each) => isDeepStrictEqual(each, first));
  }

  private sums(node: string, schemas: readonly string[]): Promise<unknown> {
    return this.onNode(node, async (connection) => {
      const tables = await connection.query<{ at: string; name: string }[]>(
        "SELECT TABLE_SCHEMA at, TABLE_NAME name FROM information_schema.TABLES WHERE TABLE_TYPE = 'BASE TABLE' AND " +
          'TABLE_SCHEMA IN (?) ORDER BY 1, 2',
        [schemas],
      );
      return connection.query(`CHECKSUM TABLE ${tables.map(({ at, name }) => `\`${at}\`.\`${name}\``).join(', ')}`);
    });
  }
}
