import type { Sequelize } from 'sequelize';
import { connectSequelize, type DatabaseAddress } from '../sources/mariadb';
import { migrate } from './migrations';
import { defineModels, Setting } from './models';

/** The product's own database, migrated and ready. */
export interface Store {
  sequelize: Sequelize;
  close(): Promise<void>;
}

export async function openStore(address: DatabaseAddress, database: string): Promise<Store> {
  const sequelize = connectSequelize(address, database, 10);
  defineModels(sequelize);
  await migrate(sequelize);
  return { sequelize, close: () => sequelize.close() };
}

export async function readSetting(name: string): Promise<string | null> {
  return (await Setting.findByPk(name))?.value ?? null;
}
