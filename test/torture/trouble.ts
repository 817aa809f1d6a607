import { setTimeout as sleep } from 'node:timers/promises';
import type { Random } from '../../core/proof/random';
import { nodeNames, serverNames, type ClusterProcess } from '../cluster-process';

/** What befalls a cluster. Each resolves when it is over; what was lost by it may still be on its way back. */
export const troubles = [
  'a node is killed',
  'a node is frozen',
  'a node is parted from the others',
  'all nodes are parted',
  'a server is killed',
  'a server is frozen',
  'connections are cut',
] as const;
export type Trouble = (typeof troubles)[number];

/** So long it may take until all is there again, in milliseconds: on a slow machine a node is copied whole. */
const wholeWithin = 300_000;

export class Troubles {
  constructor(
    private readonly cluster: ClusterProcess,
    private readonly random: Random,
    private readonly only: readonly Trouble[] = troubles,
  ) {}

  /** Does one by chance. */
  async next(): Promise<Trouble> {
    const trouble = this.random.pick(this.only);
    const node = this.random.pick(nodeNames);
    const server = this.random.pick(serverNames);
    const time = this.random.int(300, 8000);
    switch (trouble) {
      case 'a node is killed':
        this.cluster.signal(node, 'SIGKILL');
        break;
      case 'a node is frozen':
        await this.frozen(node, time);
        break;
      case 'a node is parted from the others':
        await this.parted([node], time);
        break;
      case 'all nodes are parted':
        await this.parted(nodeNames, time);
        break;
      case 'a server is killed':
        this.cluster.signal(server, 'SIGKILL');
        break;
      case 'a server is frozen':
        await this.frozen(server, time);
        break;
      case 'connections are cut':
        await this.cut(node);
        break;
    }
    return trouble;
  }

  /** Waits until three nodes decide together and both servers serve; false where that does not come. */
  async whole(): Promise<boolean> {
    for (const until = Date.now() + wholeWithin; Date.now() < until && !this.cluster.hasEnded; await sleep(250))
      if (
        (await Promise.all([...nodeNames.map((node) => this.isSynced(node)), ...serverNames.map(this.serves)])).every(
          Boolean,
        )
      )
        return true;
    return false;
  }

  /** Galera's own switch for it: a node drops what comes from the others, and sends them nothing. */
  private async parted(nodes: readonly string[], time: number): Promise<void> {
    const isolate = (is: 0 | 1) =>
      Promise.all(
        nodes.map((node) =>
          this.cluster.asKeeper(node, (connection) =>
            connection.query(`SET GLOBAL wsrep_provider_options = 'gmcast.isolate=${is}'`),
          ),
        ),
      );
    await isolate(1);
    await sleep(time);
    await isolate(0);
  }

  private async frozen(name: string, time: number): Promise<void> {
    this.cluster.signal(name, 'SIGSTOP');
    await sleep(time);
    this.cluster.signal(name, 'SIGCONT');
  }

  private cut(node: string): Promise<void> {
    return this.cluster.onNode(node, async (connection) => {
      const open = await connection.query<{ id: bigint }[]>(
        "SELECT ID id FROM information_schema.PROCESSLIST WHERE USER = 'stone_porch' AND ID <> CONNECTION_ID()",
      );
      for (const { id } of open) await connection.query(`KILL ${id}`).catch(() => undefined);
    });
  }

  private async isSynced(node: string): Promise<boolean> {
    try {
      return await this.cluster.onNode(node, async (connection) => {
        const rows = await connection.query<{ Variable_name: string; Value: string }[]>(
          "SHOW GLOBAL STATUS WHERE Variable_name LIKE 'wsrep_local_state' OR Variable_name LIKE 'wsrep_cluster_s%'",
        );
        const told = Object.fromEntries(rows.map((row) => [row.Variable_name, row.Value]));
        return (
          told.wsrep_local_state === '4' &&
          told.wsrep_cluster_size === String(nodeNames.length) &&
          told.wsrep_cluster_status === 'Primary'
        );
      });
    } catch {
      return false;
    }
  }

  private readonly serves = async (server: string): Promise<boolean> => {
    try {
      const at = `http://127.0.0.1:${this.cluster.portOf(server)}/health/ready`;
      return (await fetch(at, { signal: AbortSignal.timeout(3000) })).status === 200;
    } catch {
      return false;
    }
  };
}
