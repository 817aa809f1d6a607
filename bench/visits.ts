import { createConnection, type Connection } from 'mariadb';
import type { Person } from '../core/access/person';
import { parseCondition } from '../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../core/definition/definition';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/**
 * The demo's visits at any size, with what row filters need and nothing more: each sampler has about `perSampler` of
 * their own and as many planned.
 */
export const perSampler = 200;

export async function makeVisits(
  address: DatabaseAddress,
  schema: string,
  visits: number,
  samplers = visits / perSampler,
): Promise<Connection> {
  const connection = await createConnection({ ...address, collation: 'utf8mb4_general_ci', bigIntAsNumber: true });
  await connection.query(`DROP DATABASE IF EXISTS ${schema}`);
  await connection.query(`CREATE DATABASE ${schema} CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci`);
  await connection.query(`USE ${schema}`);
  await connection.query('SET SESSION foreign_key_checks = 0, unique_checks = 0');
  await connection.query(
    'CREATE TABLE samplers (id INT PRIMARY KEY, name VARCHAR(80) NOT NULL, email VARCHAR(120) NOT NULL, ' +
      'district VARCHAR(40) NOT NULL)',
  );
  await connection.query(
    `INSERT INTO samplers SELECT seq, CONCAT('Sampler ', seq), CONCAT('s', seq, '@example.org'), ELT(1 + seq % ` +
      `4, 'Saltby', 'Fenwick', 'Marsh End', 'Alder') FROM seq_1_to_${samplers}`,
  );
  await connection.query(`CREATE TABLE visits (id INT PRIMARY
    KEY, sampler_id INT NULL, planned_by BIGINT NULL, planned_for DATETIME NULL, state ENUM('asked', 'planned',
    'sampled', 'at lab', 'reported', 'cancelled') NOT NULL,
    access_note VARCHAR(300) NULL, fee DECIMAL(8,2) NULL, KEY (sampler_id), KEY (planned_by), KEY (planned_for), FOREIGN
    KEY (sampler_id) REFERENCES samplers (id))`);
  await connection.query(`INSERT INTO visits SELECT seq, 1 + seq * 6007 % ${samplers}, 1 + (seq * 6007 + IF(seq % 8 = 0,
    31, 0)) % ${samplers}, TIMESTAMPADD(MINUTE, seq * 7919 % 1500000, '2023-11-24'), ELT(1 + seq % 6, 'asked',
    'planned', 'sampled', 'at lab', 'reported', 'cancelled'),
    CONCAT('note ', seq), 60 + seq % 40 FROM seq_1_to_${visits}`);
  await connection.query('ANALYZE TABLE samplers, visits PERSISTENT FOR ALL');
  return connection;
}

export const ownOrPlanned = 'sampler_id = :member.samplers.id OR planned_by = :member.id';
export const visitColumns = ['id', 'sampler_id', 'planned_by', 'planned_for', 'state', 'access_note', 'fee'];

export function visitsDefinition(schema: string, where = ownOrPlanned): PortalDefinition {
  return {
    ...emptyDefinition({ slug: 'bench', name: 'Bench', timeZone: 'Europe/London', colour: '#1f5f85' }, schema),
    roles: [{ id: 'sampler', name: 'Sampler' }],
    rosters: [{ table: 'samplers', name: 'name', email: 'email', role: 'sampler' }],
    access: { visits: { sampler: { see: { where: parseCondition(where).condition, columns: visitColumns } } } },
  };
}

export function sampler(id: number): Person {
  return {
    kind: 'member',
    id,
    email: `s${id}@example.org`,
    organisation: null,
    roles: ['sampler'],
    rows: { samplers: { id, name: `Sampler ${id}`, email: `s${id}@example.org`, district: 'Saltby' } },
  };
}
