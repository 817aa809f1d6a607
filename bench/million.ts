import { createConnection } from 'mariadb';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/**
 * Adds rows to a loaded demo until `visits` has a million: 5,000 samplers, 160,000 owners, 200,000 wells, the same
 * shares as the demo.
 */
export async function growToMillion(address: DatabaseAddress, schema: string): Promise<void> {
  const connection = await createConnection({ ...address, database: schema, collation: 'utf8mb4_general_ci' });
  try {
    for (const statement of [
      'SET SESSION foreign_key_checks = 0, unique_checks = 0',
      "INSERT INTO samplers (id, name, email, district, active) SELECT seq, CONCAT('Sampler ', seq), " +
        "CONCAT('s', seq, '@example.org'), 'Saltby', 1 FROM seq_15_to_5000",
      "INSERT INTO owners (id, name, email, postal_address, parish) SELECT seq, CONCAT('Owner ', seq), " +
        "CONCAT('o', seq, '@example.org'), '1 Long Dyke', 'Saltby' FROM seq_421_to_160000",
      'INSERT INTO wells (id, code, owner_id, address, postcode, parish, latitude, longitude, state) SELECT ' +
        "seq, CONCAT('B', seq), 1 + seq * 7919 % 160000, '1 Long Dyke', 'AF1', 'Saltby', 53, 0.1, 'active' FROM " +
        'seq_521_to_200000',
      `INSERT INTO visits (well_id, sampler_id, planned_by, asked_on, planned_for, state, seal_number, fee, paid)
       SELECT 1 + seq * 7907 % 200000, 1 + seq * 6007 % 5000, 1 + (seq * 6007 + IF(seq % 8 = 0, 31, 0)) % 5000,
        '2025-01-01', TIMESTAMPADD(MINUTE, seq % 1500000, '2023-11-24'), ELT(1 + seq % 4, 'planned', 'sampled',
        'at lab', 'reported'), CONCAT('T', seq), 60, seq % 2
       FROM seq_1_to_997400`,
      'ANALYZE TABLE samplers, owners, wells, visits',
    ])
      await connection.query(statement);
  } finally {
    await connection.end();
  }
}
