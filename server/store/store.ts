import type { Sequelize } from 'sequelize';
import { upToDate, connectSequelize, strictInUtc, type DatabaseAddress } from '../sources/connect-sequelize';
import { migrate } from './migrations';
import { defineModels, Setting } from './models';

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
  const sequelize = connectSequelize(address, database, 10, {
    initSql: [`${strictInUtc}${upToDate}, SESSION max_statement_time = 20`],
  });
  defineModels(sequelize);
  return { sequelize, close: () => sequelize.close() };
}

export async function readSetting(name: string): Promise<string | null> {
  return (await Setting.findByPk(name))?.value ?? null;
}
