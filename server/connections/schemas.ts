import { QueryTypes, type Sequelize } from 'sequelize';
import { Problem } from '../../core/refusals/problem';

/** Schemas of the server that portals may connect: neither the database's own nor the product's. */
export async function listSchemas(sequelize: Sequelize, ownSchema: string): Promise<string[]> {
  const rows = await sequelize.query<{ name: string }>(
    `SELECT SCHEMA_NAME name FROM information_schema.SCHEMATA WHERE SCHEMA_NAME NOT IN ('information_schema', ` +
      `'mysql', 'performance_schema', 'sys', ?) ORDER BY 1`,
    { replacements: [ownSchema], type: QueryTypes.SELECT },
  );
  return rows.map((row) => row.name);
}

/**
 * Schemas that are made here begin so: the product's account needs rights to these alone, and not to whatever else the
 * server holds.
 */
const madeSchema = 'portal_';

/**
 * Makes an empty schema for a portal's records. Refused where there is one of the name, whoever's it is, or the name is
 * none.
 */
export async function makeSchema(sequelize: Sequelize, name: string): Promise<void> {
  const refused = (reason: string) =>
    new Problem(422, 'invalid-values', "The schema can't be made.", { fields: { newSchema: reason } });
  if (!name.startsWith(madeSchema) || !/^[a-z0-9_]{1,50}$/.test(name.slice(madeSchema.length)))
    throw refused('Use lower-case letters, digits and _, 50 at most.');
  const rows = await sequelize.query('SELECT 1 FROM information_schema.SCHEMATA WHERE LOWER(SCHEMA_NAME) = ?', {
    replacements: [name],
    type: QueryTypes.SELECT,
  });
  if (rows.length > 0) throw refused('There is a schema of this name already. Choose another name.');
  await sequelize
    .query(`CREATE DATABASE \`${name}\` CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci`)
    .catch((error: unknown) => {
      // 1007 and 1044 are MariaDB's ER_DB_CREATE_EXISTS and ER_DBACCESS_DENIED_ERROR.
      const { errno } = (error as { original?: { errno?: number } }).original ?? {};
      if (errno === 1007) throw refused('There is a schema of this name already. Choose another name.');
      if (errno === 1044)
        throw refused(
          "Stone Porch's account may not make schemas in this database. Ask whoever runs it to make one, and " +
            'choose it.',
        );
      throw error;
    });
}

/** Takes back a schema that was just made and holds nothing yet. */
export async function unmakeSchema(sequelize: Sequelize, name: string): Promise<void> {
  await sequelize.query(`DROP DATABASE \`${name}\``);
}
