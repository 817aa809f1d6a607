import { QueryTypes, type Sequelize } from 'sequelize';

/** What the node that answers says of its cluster. */
export interface ClusterState {
  /** Nodes that it counts among them, itself included. */
  nodes: number;
  /** For how many seconds writes waited for a node that is behind (flow control), since that node came up. */
  waited: number;
}

const asked = ['wsrep_cluster_size', 'wsrep_flow_control_paused_ns'] as const;

/** The state of the product's own cluster, from the status variables of MariaDB's Galera; null where there is none. */
export async function clusterState(sequelize: Sequelize): Promise<ClusterState | null> {
  const rows = await sequelize.query<{ Variable_name: string; Value: string }>(
    "SHOW GLOBAL STATUS WHERE Variable_name IN ('wsrep_cluster_size', 'wsrep_flow_control_paused_ns')",
    { type: QueryTypes.SELECT },
  );
  const told = new Map(rows.map(({ Variable_name: name, Value: value }) => [name, Number(value)]));
  const [nodes = 0, paused = 0] = asked.map((name) => told.get(name));
  return nodes > 0 ? { nodes, waited: paused / 1e9 } : null;
}

/** Of the time since it was last asked, the share in which writes waited, from 0 to 1. */
export class ShareWaited {
  private before: { at: number; waited: number } | null = null;

  take(waited: number, at = performance.now()): number {
    const { before } = this;
    this.before = { at, waited };
    // Another node answers now, or the same one after it was begun anew.
    if (!before || waited < before.waited || at <= before.at) return 0;
    return Math.min(1, (waited - before.waited) / ((at - before.at) / 1000));
  }
}
