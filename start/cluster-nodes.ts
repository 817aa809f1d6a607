import { spawnSync, type ChildProcess } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { Advice } from '../core/refusals/advice';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { endOf } from './end-of';
import { databaseSecret, freePort, startMariadb } from './local-mariadb';
import { areSettled, stateOf } from './node-state';

/** Where Debian's galera-4 puts the library by which nodes replicate. */
const provider = '/usr/lib/galera/libgalera_smm.so';
/**
 * After two seconds of silence the others ask one another whether a node is gone, and go on without it; what they tell
 * one another then they repeat every 0.3 s.
 */
const silence = [
  'evs.keepalive_period=PT0.5S',
  'evs.suspect_timeout=PT2S',
  'evs.inactive_timeout=PT5S',
  'evs.inactive_check_period=PT0.5S',
  'evs.join_retrans_period=PT0.3S',
];
/** So long, in milliseconds, the others may take to go on without one, after which it is begun all the same. */
const settling = 10_000;
const schemas = ['stone_porch', 'alder_fen', 'records'];
/** A node whose disk has less room than this, in bytes, is left for one that has twice as much. */
const leastRoom = 64 * 2 ** 20;

/** A node of the cluster: its database, and a door at which the proxy asks whether it may be used. */
export interface ClusterNode {
  name: string;
  folder: string;
  port: number;
  /** Where the proxy asks. */
  checkPort: number;
  /** Its database, from its beginning on: one that joins is not open yet. */
  process: ChildProcess | null;
  /** Whether it is open, and has been one of the others since it was begun. */
  hasJoined: boolean;
  /** Whether it is left because its disk is full. */
  isFull: boolean;
  address: DatabaseAddress;
}

interface Ports {
  sql: number;
  group: number;
  transfer: number;
  state: number;
  check: number;
}

/**
 * Nodes of MariaDB's own Galera cluster on loopback, each with its data in a folder of its own below `folder`. All have
 * one password of ours, since what one makes of its users the others make as well.
 */
export class ClusterNodes {
  readonly nodes: ClusterNode[] = [];
  private readonly ports: Ports[] = [];
  private readonly doors: Server[] = [];
  private stopping = false;

  constructor(
    private readonly folder: string,
    private readonly say: (words: string) => void,
  ) {}

  async start(howMany: number): Promise<void> {
    mkdirSync(this.folder, { recursive: true, mode: 0o700 });
    databaseSecret(this.folder);
    for (let i = 0; i < howMany; i++) {
      const folder = join(this.folder, `node-${i + 1}`);
      mkdirSync(folder, { recursive: true, mode: 0o700 });
      copyFileSync(join(this.folder, 'secrets.json'), join(folder, 'secrets.json'));
      const [sql, group, transfer, state, check] = (await Promise.all(Array.from({ length: 5 }, freePort))) as [
        number,
        number,
        number,
        number,
        number,
      ];
      this.ports.push({ sql, group, transfer, state, check });
      this.nodes.push({
        name: `node-${i + 1}`,
        folder,
        port: sql,
        checkPort: check,
        process: null,
        hasJoined: false,
        isFull: false,
        address: { host: '127.0.0.1', port: sql, user: 'stone_porch', password: databaseSecret(this.folder) },
      });
    }
    const first = firstToBegin(this.nodes.map(({ folder }) => folder));
    const order = this.nodes.map((_, i) => i).sort((a, b) => Number(b === first) - Number(a === first));
    for (const [turn, i] of order.entries()) await this.begin(i, turn === 0);
    for (const [i, node] of this.nodes.entries()) this.doors.push(await this.checkDoor(node, this.ports[i]!.check));
  }

  /**
   * Ends them one after the other: the last knows that it was the last, and begins the next time. One that is being
   * given its copy may never answer.
   */
  async stop(): Promise<void> {
    this.stopping = true;
    for (const door of this.doors) door.close();
    for (const { process, hasJoined } of this.nodes.toReversed())
      if (process) await endOf(process, hasJoined ? 60_000 : 10_000);
  }

  private async begin(i: number, isFirst: boolean): Promise<void> {
    if (this.stopping) return;
    const node = this.nodes[i]!;
    const { group, transfer, state, sql } = this.ports[i]!;
    const at = this.ports.map((ports) => `127.0.0.1:${ports.group}`).join(',');
    const settings = [
      '--wsrep-on=ON',
      `--wsrep-provider=${provider}`,
      '--wsrep-cluster-name=stone-porch',
      `--wsrep-cluster-address=gcomm://${at}`,
      `--wsrep-node-name=${node.name}`,
      '--wsrep-node-address=127.0.0.1',
      `--wsrep-provider-options=${[
        `gmcast.listen_addr=tcp://127.0.0.1:${group}`,
        `ist.recv_addr=127.0.0.1:${transfer}`,
        'gcs.fc_limit=128',
        ...silence,
      ].join(';')}`,
      '--wsrep-sst-method=mariabackup',
      // Whoever runs the databases is their own administrator, at their sockets alone.
      `--wsrep-sst-auth=${userInfo().username}:`,
      `--wsrep-sst-receive-address=127.0.0.1:${state}`,
      '--binlog-format=ROW',
      '--innodb-autoinc-lock-mode=2',
      // What a node has said yes to the others have too: it need not be on the disk of each at once.
      '--innodb-flush-log-at-trx-commit=2',
      ...(isFirst ? ['--wsrep-new-cluster'] : []),
    ];
    const begun = (child: ChildProcess) => void (node.process = child);
    const joins = isFirst
      ? undefined
      : { begun, hasJoined: async (address: DatabaseAddress) => (await stateOf({ address })).state === 'ready' };
    const database = await startMariadb(node.folder, schemas, settings, sql, joins);
    node.process = database.process;
    node.hasJoined = true;
    database.process.once('exit', () => void this.again(i));
  }

  /** A node that has ended is begun again, and takes from the others what it missed. */
  private async again(i: number): Promise<void> {
    const node = this.nodes[i]!;
    node.process = null;
    node.hasJoined = false;
    if (this.stopping) return;
    this.say(`${node.name} has ended. It is begun again, and takes from the others what it missed.`);
    await this.areWithout(node);
    for (let tries = 1; !this.stopping; tries++) {
      try {
        await this.begin(i, false);
        this.say(`${node.name} is back.`);
        return;
      } catch (error) {
        // Where no others decide it can't join; they may be back in a while.
        if (tries === 1) this.say(`${node.name} could not be begun again: ${(error as Error).message}`);
        await sleep(Math.min(tries, 10) * 500);
      }
    }
  }

  /**
   * Waits until the others go on without a node that has ended: one that asks to be let in while they still settle that
   * it is gone holds them up for up to twelve seconds (decision 93).
   */
  private async areWithout(node: ClusterNode): Promise<void> {
    for (const until = Date.now() + settling; Date.now() < until && !this.stopping; await sleep(100)) {
      const others = this.nodes.filter((each) => each !== node && each.process);
      if (areSettled(await Promise.all(others.map(stateOf)))) return;
    }
  }

  /**
   * A node that could not come to terms with the others, as after it stood still for seconds, closes its replication
   * and goes on alone, for ever. It is ended, so that it is begun again.
   */
  private endWhatGaveUp(node: ClusterNode): void {
    const { process } = node;
    if (this.stopping || !node.hasJoined || !process) return;
    node.hasJoined = false;
    this.say(`${node.name} has given up its place among the others.`);
    // It may be too far gone to end itself.
    void endOf(process, 10_000);
  }

  /** Says to the proxy whether a node belongs to the part of the cluster that decides, and has all that was decided. */
  private checkDoor(node: ClusterNode, port: number): Promise<Server> {
    const door = createServer((_req, res) => {
      void Promise.all([stateOf(node), this.isLeftAsFull(node)]).then(([{ state }, isFull]) => {
        if (state === 'given up') this.endWhatGaveUp(node);
        const isUsed = state === 'ready' && !isFull;
        res.writeHead(isUsed ? 200 : 503).end(`${isFull ? 'disk full' : state}\n`);
      });
    });
    return new Promise((resolve) => door.listen(port, '127.0.0.1', () => resolve(door)));
  }

  /** On a full disk nothing can be written, though the node says that it is ready. Where all are full all are used. */
  private async isLeftAsFull(node: ClusterNode): Promise<boolean> {
    const others = this.nodes.filter((each) => each !== node && each.hasJoined);
    const [has, ...have] = await Promise.all([node, ...others].map(roomOf));
    const isFull = has! < leastRoom && have.some((room) => room >= 2 * leastRoom);
    if (isFull !== node.isFull)
      this.say(isFull ? `The disk of ${node.name} is full. Another is used.` : `${node.name} has room again.`);
    node.isFull = isFull;
    return isFull;
  }
}

/** Bytes left for a node's data; no end of them where that can't be told. */
function roomOf({ folder }: ClusterNode): Promise<number> {
  return statfs(folder).then(
    ({ bavail, bsize }) => bavail * bsize,
    () => Infinity,
  );
}

/**
 * Which of the nodes begins: the one that ended last, which says so of itself; where all were killed, the one that has
 * most, by its own recovery (as Galera's documentation has it). It is told that it may.
 */
function firstToBegin(folders: string[]): number {
  const states = folders.map((folder) => join(folder, 'db', 'grastate.dat'));
  const known = states.map((file) => (existsSync(file) ? readFileSync(file, 'utf8') : ''));
  const last = known.findIndex((text) => /^safe_to_bootstrap: 1$/m.test(text));
  const saved = known.map((text) => Number(/^seqno:\s*(-?\d+)$/m.exec(text)?.[1] ?? -1));
  // One whose data were put back from an older copy says so too.
  if (last >= 0 && saved[last] === Math.max(...saved)) return last;
  if (known.every((text) => text === '')) return 0;
  const has = folders.map((folder) => recovered(join(folder, 'db')));
  const most = has.indexOf(Math.max(...has));
  writeFileSync(states[most]!, known[most]!.replace(/^safe_to_bootstrap: 0$/m, 'safe_to_bootstrap: 1'));
  return most;
}

/** The number of the last change that a node's data have, which is not running. */
function recovered(dataFolder: string): number {
  if (!existsSync(dataFolder)) return -1;
  const { stdout, stderr, status } = spawnSync(
    '/usr/sbin/mariadbd',
    [
      '--no-defaults',
      `--datadir=${dataFolder}`,
      `--user=${userInfo().username}`,
      '--wsrep-on=ON',
      `--wsrep-provider=${provider}`,
      // It joins nobody, but does not begin without.
      '--wsrep-cluster-address=gcomm://',
      '--binlog-format=ROW',
      '--innodb-autoinc-lock-mode=2',
      '--skip-networking',
      '--socket=recover.sock',
      '--wsrep-recover',
    ],
    { encoding: 'utf8' },
  );
  rmSync(join(dataFolder, 'recover.sock'), { force: true });
  const found = /Recovered position:?\s*\S+:(-?\d+)/.exec(stdout + stderr);
  if (!found && status !== 0) throw new Advice(`The data in ${dataFolder} can't be recovered.`);
  return Number(found?.[1] ?? -1);
}
