import { createConnection } from 'mariadb';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/** So long a node may take to say how it is, in milliseconds. */
const patience = 1400;

/** How a node of the cluster says that it is. */
export interface NodeState {
  /**
   * Whether it may be asked: ready for questions, and synced (4) or giving another a copy (2), beside which it is
   * asked. Or whether it has given up replication.
   */
  state: 'ready' | 'not ready' | 'given up';
  /** How many nodes decide together with it, itself too; 0 where it is none of those, null where it is silent. */
  members: number | null;
}

/** Asks a node how it is. */
export async function stateOf({ address }: { address: DatabaseAddress }): Promise<NodeState> {
  try {
    // By the socket: with a limit for statements the driver sets that first, and where the node goes in that moment it
    // leaves a failure to nobody, which would end all of us.
    const connection = await createConnection({ ...address, connectTimeout: patience, socketTimeout: patience });
    connection.on('error', () => undefined);
    try {
      const rows = await connection.query<{ Variable_name: string; Value: string }[]>(
        "SHOW GLOBAL STATUS WHERE Variable_name IN ('wsrep_ready', 'wsrep_local_state', 'wsrep_cluster_status', " +
          "'wsrep_cluster_size')",
      );
      const told = Object.fromEntries(rows.map((row) => [row.Variable_name, row.Value]));
      const members = told.wsrep_cluster_status === 'Primary' ? Number(told.wsrep_cluster_size) : 0;
      if (told.wsrep_cluster_status === 'Disconnected') return { state: 'given up', members };
      const isReady = told.wsrep_ready === 'ON' && ['2', '4'].includes(told.wsrep_local_state ?? '');
      return { state: isReady ? 'ready' : 'not ready', members };
    } finally {
      connection.destroy();
    }
  } catch {
    return { state: 'not ready', members: null };
  }
}

/**
 * Whether the nodes that are left when one has ended know that it is gone: one of them decides, and with no more than
 * are left; or none of them decides, so that they need it back. One that is silent may still decide.
 */
export function areSettled(left: readonly NodeState[]): boolean {
  const goesOn = left.some(({ members }) => members !== null && members > 0 && members <= left.length);
  return goesOn || left.every(({ members }) => members === 0);
}
