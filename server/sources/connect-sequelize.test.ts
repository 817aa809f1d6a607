import { QueryTypes } from 'sequelize';
import { expect, inject, it } from 'vitest';
import { freshSchema } from '../../test/tables';
import { connectSequelize } from './connect-sequelize';

it('begins every connection alike: strict, in UTC, and with no more statements than the one before', async () => {
  await (await freshSchema(inject('database'), 'connecting')).end();
  // One at a time, and given up as soon as it is done.
  const sequelize = connectSequelize(inject('database'), 'connecting', 1);
  const begun = async () => {
    const one = { type: QueryTypes.SELECT, plain: true } as const;
    const said = await sequelize.query<{ mode: string; zone: string; id: number }>(
      'SELECT @@sql_mode mode, @@time_zone zone, CONNECTION_ID() id',
      one,
    );
    const asked = await sequelize.query<{ Value: string }>("SHOW SESSION STATUS LIKE 'Questions'", one);
    const connection = await sequelize.connectionManager.getConnection({ type: 'read' });
    await sequelize.connectionManager.destroyConnection(connection);
    return { ...said!, asked: asked!.Value };
  };
  try {
    const all = [await begun(), await begun(), await begun(), await begun()];
    expect(new Set(all.map((each) => each.id)).size).toBe(4);
    expect(new Set(all.map((each) => each.asked)).size).toBe(1);
    for (const { mode, zone } of all) {
      expect(mode).toContain('STRICT_ALL_TABLES');
      expect(zone).toBe('+00:00');
    }
  } finally {
    await sequelize.close();
  }
});
