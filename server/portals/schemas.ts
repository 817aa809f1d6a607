import { QueryTypes, type Sequelize } from 'sequelize';

/** Schemas of the server that portals may connect: neither the database's own nor the product's. */
export async function listSchemas(sequelize: Sequelize, ownSchema: string): Promise<string[]> {
  const rows = await sequelize.query<{ name: string }>(
    `SELECT SCHEMA_NAME name FROM information_schema.SCHEMATA WHERE SCHEMA_NAME NOT IN ('information_schema', 'mysql', 'performance_schema', 'sys', ?) ORDER BY 1`,
    { replacements: [ownSchema], type: QueryTypes.SELECT },
  );
  return rows.map((row) => row.name);
}
