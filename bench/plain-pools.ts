import { createPool } from 'mariadb';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/** The pools of a server written by hand: to the product's own tables, and to the demo's. */
export function plainPools(address: DatabaseAddress) {
  const options = {
    ...address,
    collation: 'utf8mb4_general_ci',
    connectionLimit: 10,
    rowsAsArray: true,
    dateStrings: true,
  };
  const [own, records] = ['stone_porch', 'alder_fen'].map((database) => createPool({ ...options, database }));
  return { own: own!, records: records! };
}
