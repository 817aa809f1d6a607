import type { Sequelize } from 'sequelize';
import { upToDate, connectSequelize, strictInUtc, type DatabaseAddress } from '../sources/connect-sequelize';
import { migrate } from './migrations';
import { defineModels, Setting } from './models';
import { provers } from './prepared';

/** The product's own database, migrated and ready. */
export interface Store {
  sequelize: Sequelize;
  close(): Promise<void>;
}

export async function openStore(address: DatabaseAddress, database: string): Promise<Store> {
  // What brings the tables up to date takes as long as it takes; everything after it has a limit.
  const unlimited = connectSequelize(address, database, 1);
  try {
    await migrate(unlimited);
  } finally {
    await unlimited.close();
  }
  const limited = `${strictInUtc}${upToDate}, SESSION max_statement_time = 20`;
  const sequelize = connectSequelize(address, database, 10, { initSql: [limited] });
  // At this level alone an INSERT asks other tables without locking what it finds; and in a cluster it waits for what
  // was decided before it, as questions do (bits 1 and 4 of `wsrep_sync_wait`).
  const proving = connectSequelize(address, database, 4, {
    initSql: [`${limited}, SESSION wsrep_sync_wait = 5`, 'SET SESSION TRANSACTION ISOLATION LEVEL READ COMMITTED'],
  });
  provers.set(sequelize, proving);
  defineModels(sequelize);
  return {
    sequelize,
    close: async () => {
      await proving.close();
      await sequelize.close();
    },
  };
}

export async function readSetting(name: string): Promise<string | null> {
  return (await Setting.findByPk(name))?.value ?? null;
}
