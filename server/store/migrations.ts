import { SequelizeStorage, Umzug } from 'umzug';
import type { Sequelize } from 'sequelize';
import { firstMigrations, type Migration } from './first-migrations';

/** Each migration once, in this order; never changed after it has shipped. */
const migrations: Migration[] = [
  ...firstMigrations,
  {
    // Those who build sign in by the same methods as members; what owners change is written in a log of its own.
    name: '0020-sign-in-of-builders',
    up: [
      `ALTER TABLE second_factors DROP PRIMARY KEY, ADD id BIGINT AUTO_INCREMENT PRIMARY KEY FIRST,
        MODIFY member_id BIGINT NULL, ADD builder_id BIGINT NULL, ADD UNIQUE (member_id), ADD UNIQUE (builder_id),
        ADD FOREIGN KEY (builder_id) REFERENCES builders (id) ON DELETE CASCADE`,
      `ALTER TABLE passkeys MODIFY member_id BIGINT NULL, ADD builder_id BIGINT NULL,
        ADD FOREIGN KEY (builder_id) REFERENCES builders (id) ON DELETE CASCADE`,
      'ALTER TABLE tickets MODIFY portal_id BIGINT NULL',
      'ALTER TABLE door_calls MODIFY portal_id BIGINT NULL',
      'ALTER TABLE audit_log MODIFY portal_id BIGINT NULL',
    ],
  },
  {
    // A server that is killed while a row is made leaves its request there, to be found.
    name: '0021-entering',
    up: ['ALTER TABLE sign_ups ADD entering_since DATETIME(3) NULL'],
  },
  {
    // How members have lists stand, under names of theirs.
    name: '0022-kept-views',
    up: [
      `CREATE TABLE kept_views (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        member_id BIGINT NOT NULL, page VARCHAR(40) NOT NULL, section VARCHAR(40) NOT NULL,
        table_name VARCHAR(105) NOT NULL, name VARCHAR(60) NOT NULL, roles TEXT NULL, standing LONGTEXT NOT NULL,
        KEY (portal_id, page, section), KEY (member_id),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE,
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // What members say of records, by ids of our own.
    name: '0023-comments',
    up: [
      `CREATE TABLE discussed_records (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        table_name VARCHAR(105) NOT NULL, key_columns TEXT NOT NULL, record_key TEXT NOT NULL,
        key_hash CHAR(43) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, closed BIGINT NOT NULL DEFAULT 0,
        closed_at DATETIME(3) NULL, closed_by BIGINT NULL, held VARCHAR(64) NULL, looked_at DATETIME(3) NOT NULL,
        UNIQUE (portal_id, table_name, key_hash, closed), KEY (closed, looked_at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      `CREATE TABLE comments (id BIGINT AUTO_INCREMENT PRIMARY KEY, record_id BIGINT NOT NULL, member_id BIGINT NULL,
        role VARCHAR(40) NOT NULL, circle VARCHAR(10) NOT NULL, text LONGTEXT NOT NULL, standing LONGTEXT NOT NULL,
        written_at DATETIME(3) NOT NULL, KEY (record_id, id),
        FOREIGN KEY (record_id) REFERENCES discussed_records (id) ON DELETE CASCADE,
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE SET NULL)`,
    ],
  },
  {
    // A file that hangs on a record is kept like what is said of it.
    name: '0024-files-on-records',
    up: [
      'ALTER TABLE comments ADD COLUMN file_id CHAR(32) CHARACTER SET ascii COLLATE ascii_bin NULL, ' +
        'ADD UNIQUE KEY (file_id), ADD FOREIGN KEY (file_id) REFERENCES files (id) ON DELETE CASCADE',
    ],
  },
  {
    name: '0025-own-addresses',
    up: ['ALTER TABLE portals ADD COLUMN address VARCHAR(300) CHARACTER SET ascii NULL, ADD UNIQUE KEY (address)'],
  },
  {
    name: '0026-views-shared-with-people',
    up: ['ALTER TABLE kept_views ADD COLUMN people TEXT NULL'],
  },
  {
    // Presses by the ids that they were sent with, so that none is done twice.
    name: '0027-presses',
    up: [
      `CREATE TABLE presses (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        press_hash CHAR(43) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, begun_at DATETIME(3) NOT NULL,
        answer LONGTEXT NULL, UNIQUE (portal_id, press_hash), KEY (begun_at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // That forms were sent, what lets their senders correct it, and what was turned away at public ones.
    name: '0028-forms',
    up: [
      `CREATE TABLE forms_sent (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        form VARCHAR(40) NOT NULL, member_id BIGINT NULL, KEY (portal_id, form, member_id),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE,
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE SET NULL)`,
      `CREATE TABLE receipts (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, form VARCHAR(40) NOT NULL,
        until DATETIME(3) NOT NULL, correctable LONGTEXT NOT NULL, UNIQUE (token_hash), KEY (until),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      `CREATE TABLE turned_away (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        form VARCHAR(40) NOT NULL, why VARCHAR(40) NOT NULL, day DATE NOT NULL, times INT NOT NULL,
        last DATETIME(3) NOT NULL, UNIQUE (portal_id, form, why, day), KEY (last),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // Calls to addresses outside, and what they are signed with; mails of records beside them are kept with those.
    name: '0029-outside-calls',
    up: [
      `CREATE TABLE outside_calls (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        member_id BIGINT NULL, role VARCHAR(40) NULL, action VARCHAR(40) NOT NULL, step INT NOT NULL,
        address VARCHAR(40) NOT NULL,
        table_name VARCHAR(105) NOT NULL, record_id VARCHAR(1000) NOT NULL,
        lane_hash CHAR(43) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
        once_key VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, body LONGTEXT NOT NULL,
        answers BOOLEAN NOT NULL, state VARCHAR(12) NOT NULL, beside BOOLEAN NOT NULL, tries INT NOT NULL DEFAULT 0,
        status INT NULL, answer LONGTEXT NULL, problem VARCHAR(1000) NULL, made_at DATETIME(3) NOT NULL,
        next_try DATETIME(3) NOT NULL, taken_by VARCHAR(40) NULL, done_at DATETIME(3) NULL,
        UNIQUE (once_key), KEY (state, next_try), KEY (portal_id, lane_hash, id), KEY (portal_id, state),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE,
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE SET NULL)`,
      `CREATE TABLE address_secrets (portal_id BIGINT NOT NULL, address VARCHAR(40) NOT NULL, sealed TEXT NOT NULL,
        sealed_before TEXT NULL, made_at DATETIME(3) NOT NULL, PRIMARY KEY (portal_id, address),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      'ALTER TABLE outbox ADD COLUMN beside BOOLEAN NOT NULL DEFAULT 0',
    ],
  },
  {
    // What is done each day at a time: how far it is, and what came of it.
    name: '0030-timed-runs',
    up: [
      `CREATE TABLE timed_runs (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        kind VARCHAR(12) NOT NULL, subject VARCHAR(40) NOT NULL, day DATE NOT NULL, state VARCHAR(12) NOT NULL,
        taken_by VARCHAR(40) NULL, beat_at DATETIME(3) NULL, place LONGTEXT NULL, going_to LONGTEXT NULL,
        done INT NOT NULL DEFAULT 0, refused INT NOT NULL DEFAULT 0, problem VARCHAR(1000) NULL,
        result LONGTEXT NULL, begun_at DATETIME(3) NOT NULL, ended_at DATETIME(3) NULL,
        UNIQUE (portal_id, kind, subject, day), KEY (begun_at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // A comment may say that a value of the record is wrong, and what was meant.
    name: '0031-said-wrong',
    up: [`ALTER TABLE comments ADD about_column VARCHAR(64) NULL, ADD meant LONGTEXT NULL, ADD was LONGTEXT NULL`],
  },
  {
    // What takes back a press, sealed by its own id.
    name: '0032-presses-taken-back',
    up: [`ALTER TABLE presses ADD takes_back LONGTEXT NULL`],
  },
  {
    // Keys by which programs work as a service; of the key itself there is a hash alone.
    name: '0033-service-keys',
    up: [
      `CREATE TABLE service_keys (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        role VARCHAR(40) NOT NULL, name VARCHAR(80) NOT NULL, beginning VARCHAR(20) NOT NULL,
        key_hash CHAR(43) NOT NULL, addresses TEXT NOT NULL, a_minute INT NOT NULL,
        made_at DATETIME(3) NOT NULL, made_by VARCHAR(200) NOT NULL,
        ends_at DATETIME(3) NULL, ended_by VARCHAR(200) NULL, used_at DATETIME(3) NULL, used_from VARCHAR(64) NULL,
        UNIQUE (key_hash), KEY (portal_id), FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // Seals over lines of the audit log, in a chain.
    name: '0034-audit-seals',
    up: [
      `CREATE TABLE audit_seals (number BIGINT PRIMARY KEY, last_id BIGINT NOT NULL, \`lines\` LONGTEXT NOT NULL,
        \`before\` VARCHAR(43) NOT NULL, digest CHAR(43) NOT NULL, sealed_at DATETIME(3) NOT NULL)`,
      'ALTER TABLE audit_log ADD KEY (portal_id, what)',
    ],
  },
  {
    // What proof runs came to, with the version that each was about.
    name: '0035-proof-runs',
    up: [
      `CREATE TABLE proof_runs (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL, version INT NULL,
        revision INT NOT NULL, made_by VARCHAR(200) NOT NULL, made_at DATETIME(3) NOT NULL, result LONGTEXT NOT NULL,
        KEY (portal_id), FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // What writes made of records, of tables whose history is kept. It refers to no portal: a reference would have
    // every write wait for whoever publishes, and it goes with its portal by `forgetOldHistory`.
    name: '0036-record-changes',
    up: [
      `CREATE TABLE record_changes (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        table_name VARCHAR(105) NOT NULL, record_id VARCHAR(1000) NOT NULL, record_hash CHAR(43) NOT NULL,
        at DATETIME(3) NOT NULL, state VARCHAR(4) NOT NULL, mark CHAR(32) NOT NULL, was LONGTEXT NULL,
        now LONGTEXT NULL, made VARCHAR(7) NOT NULL, by_kind VARCHAR(10) NOT NULL, member_id BIGINT NULL,
        name VARCHAR(200) NULL, role VARCHAR(40) NULL, action VARCHAR(40) NULL, form VARCHAR(40) NULL,
        brought BOOLEAN NOT NULL, follows BOOLEAN NOT NULL, erased_at DATETIME(3) NULL,
        KEY (portal_id, table_name, record_hash), KEY (portal_id, table_name, at),
        KEY (mark), KEY (portal_id, member_id))`,
    ],
  },
  {
    // Who had which roles, and which version was live, at any moment since.
    name: '0037-recorded-roles',
    up: [
      `CREATE TABLE live_versions (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL, number INT NOT NULL,
        at DATETIME(3) NOT NULL, KEY (portal_id, at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      `INSERT INTO live_versions (portal_id, number, at)
        SELECT portal_id, number, published_at FROM versions ORDER BY published_at`,
      `CREATE TABLE roles_looks (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        at DATETIME(3) NOT NULL, until DATETIME(3) NOT NULL, KEY (portal_id, at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      `CREATE TABLE recorded_roles (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        member_id BIGINT NOT NULL, at DATETIME(3) NOT NULL, state LONGTEXT NULL, KEY (portal_id, member_id, at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // Who sees what, sent to a colleague and signed line by line.
    name: '0038-access-reviews',
    up: [
      `CREATE TABLE access_reviews (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        version INT NOT NULL, made_by VARCHAR(200) NOT NULL, made_at DATETIME(3) NOT NULL, builder_id BIGINT NOT NULL,
        reviewer VARCHAR(200) NOT NULL, \`lines\` LONGTEXT NOT NULL, done_at DATETIME(3) NULL, KEY (portal_id),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // Which server changes the shape of a schema's tables, for as long as it says so.
    name: '0039-shape-leases',
    up: [
      `CREATE TABLE shape_leases (schema_name VARCHAR(64) PRIMARY KEY, holder CHAR(36) NOT NULL,
        held_until DATETIME(3) NOT NULL)`,
    ],
  },
  {
    // What lets a form's sender correct it stands with the press by which it was sent.
    name: '0040-receipts-of-presses',
    up: [
      `ALTER TABLE presses ADD COLUMN receipt_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL,
        ADD COLUMN correctable LONGTEXT NULL, ADD UNIQUE (receipt_hash)`,
      `INSERT INTO presses (portal_id, press_hash, begun_at, receipt_hash, correctable)
        SELECT portal_id, LEFT(token_hash, 43), until - INTERVAL 30 MINUTE, token_hash,
        JSON_MERGE_PATCH(correctable, JSON_OBJECT('form', form)) FROM receipts`,
      'DROP TABLE receipts',
    ],
  },
];

/** Whether this version knows a change of the product's own tables. */
export const isKnownMigration = (name: string): boolean => migrations.some((each) => each.name === name);

/** Brings the product's own tables up to date. */
export async function migrate(sequelize: Sequelize): Promise<void> {
  const umzug = new Umzug({
    migrations: migrations.map(({ name, up }) => ({
      name,
      up: async () => {
        for (const statement of up) await sequelize.query(statement);
      },
    })),
    storage: new SequelizeStorage({ sequelize, tableName: 'migrations' }),
    logger: undefined,
  });
  await umzug.up();
}
