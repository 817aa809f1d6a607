/** A change of the product's own tables. */
export interface Migration {
  name: string;
  up: string[];
}

/** The first of them, in their order. */
export const firstMigrations: Migration[] = [
  {
    name: '0001-foundation',
    up: [
      'CREATE TABLE builders (id BIGINT AUTO_INCREMENT PRIMARY KEY, email VARCHAR(254) NOT NULL UNIQUE, name ' +
        'VARCHAR(120) NOT NULL, password_hash VARCHAR(255) NOT NULL)',
      'CREATE TABLE portals (id BIGINT AUTO_INCREMENT PRIMARY KEY, slug VARCHAR(40) NOT NULL UNIQUE, draft ' +
        'LONGTEXT NOT NULL, revision INT NOT NULL, published_version INT NULL)',
      `CREATE TABLE versions (portal_id BIGINT NOT NULL, number INT NOT NULL, document LONGTEXT NOT NULL, note
        VARCHAR(500) NOT NULL,
        published_by VARCHAR(120) NOT NULL, published_at DATETIME NOT NULL, PRIMARY KEY (portal_id, number), FOREIGN
        KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      `CREATE TABLE draft_edits (id BIGINT AUTO_INCREMENT PRIMARY
        KEY, portal_id BIGINT NOT NULL, label VARCHAR(200) NOT NULL, forward LONGTEXT NOT NULL, backward LONGTEXT NOT
        NULL,
        undone BOOLEAN NOT NULL, builder_id BIGINT NULL, made_at DATETIME NOT NULL, FOREIGN
        KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      `CREATE TABLE members (id BIGINT AUTO_INCREMENT PRIMARY
        KEY, portal_id BIGINT NOT NULL, email VARCHAR(254) COLLATE utf8mb4_bin NOT NULL, name VARCHAR(200) NOT NULL,
        active BOOLEAN NOT NULL, password_hash VARCHAR(255) NULL, UNIQUE (portal_id, email), FOREIGN
        KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      `CREATE TABLE memberships (member_id BIGINT NOT NULL, roster_table VARCHAR(64) NOT NULL, row_key VARCHAR(300) NOT
        NULL,
        PRIMARY KEY (member_id, roster_table), FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE CASCADE)`,
      `CREATE TABLE sessions (token_hash CHAR(64) CHARACTER SET ascii PRIMARY
        KEY, builder_id BIGINT NULL, member_id BIGINT NULL, expires_at DATETIME NOT NULL, seen_at DATETIME NOT NULL,
        KEY (expires_at), FOREIGN KEY (builder_id) REFERENCES builders (id) ON DELETE CASCADE, FOREIGN
        KEY (member_id) REFERENCES members (id) ON DELETE CASCADE)`,
      `CREATE TABLE settings (name VARCHAR(60) PRIMARY KEY, value LONGTEXT NOT NULL)`,
      // The columns that rate-limiter-flexible expects.
      `CREATE TABLE sign_in_failures (\`key\` VARCHAR(255) PRIMARY KEY, points INT NOT NULL DEFAULT 0, expire ` +
        'BIGINT UNSIGNED NULL)',
    ],
  },
  {
    name: '0002-connections',
    up: [
      `CREATE TABLE connections (id BIGINT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL
        UNIQUE, kind VARCHAR(20) NOT NULL, host VARCHAR(255) NOT NULL, port INT NOT NULL, \`database\` VARCHAR(64) NOT
        NULL,
        user VARCHAR(128) NOT NULL, sealed_password TEXT NOT NULL, tls VARCHAR(10) NOT NULL, revision INT NOT NULL)`,
    ],
  },
  {
    name: '0003-files-and-jobs',
    up: [
      `CREATE TABLE files (id CHAR(32) CHARACTER SET ascii COLLATE ascii_bin PRIMARY
        KEY, portal_id BIGINT NOT NULL, name VARCHAR(255) NOT NULL, size BIGINT NOT NULL, purpose VARCHAR(40) NOT NULL,
        type VARCHAR(127) NOT NULL,
        facts LONGTEXT NOT NULL, gone_at DATETIME NULL, KEY (gone_at), FOREIGN
        KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      'CREATE TABLE file_pieces (file_id CHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, place INT ' +
        'NOT NULL, bytes MEDIUMBLOB NOT NULL, PRIMARY KEY (file_id, place), FOREIGN KEY (file_id) REFERENCES ' +
        'files (id) ON DELETE CASCADE)',
      `CREATE TABLE jobs (id BIGINT AUTO_INCREMENT PRIMARY
        KEY, portal_id BIGINT NOT NULL, kind VARCHAR(40) NOT NULL, builder_id BIGINT NULL, state VARCHAR(12) NOT NULL,
        input LONGTEXT NOT NULL, result LONGTEXT NULL, done BIGINT NOT NULL,
        total BIGINT NULL, cancel_wanted BOOLEAN NOT NULL, worker VARCHAR(40) NULL, beat_at DATETIME(3) NULL, made_at
        DATETIME NOT NULL, KEY (state, id), FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      'CREATE TABLE import_mappings (portal_id BIGINT NOT NULL, table_name VARCHAR(64) NOT NULL, mapping ' +
        'LONGTEXT NOT NULL, PRIMARY KEY (portal_id, table_name), FOREIGN KEY (portal_id) REFERENCES portals (id) ' +
        'ON DELETE CASCADE)',
    ],
  },
  {
    name: '0004-who-may-use-a-connection',
    up: ['ALTER TABLE connections ADD builders LONGTEXT NULL'],
  },
  {
    // A table of a further source is called with the source's short name before it.
    name: '0005-longer-table-names',
    up: ['ALTER TABLE import_mappings MODIFY table_name VARCHAR(105) NOT NULL'],
  },
  {
    name: '0006-audit-log',
    up: [
      `CREATE TABLE audit_log (id BIGINT AUTO_INCREMENT PRIMARY
        KEY, portal_id BIGINT NOT NULL, at DATETIME(3) NOT NULL, who VARCHAR(200) NOT NULL, what VARCHAR(60) NOT NULL,
        about VARCHAR(2000) NOT NULL,
        KEY (portal_id, at), FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // What is kept by the name of a schema or table tells letter cases apart, as the database does, and has room for
    // the longest.
    name: '0007-exact-names',
    up: [
      'ALTER TABLE settings MODIFY name VARCHAR(400) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL',
      'ALTER TABLE memberships MODIFY roster_table VARCHAR(105) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL',
      'ALTER TABLE import_mappings MODIFY table_name VARCHAR(105) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL',
    ],
  },
  {
    // Counts every change of what limits rights beside the definitions: ceilings, saved queries, the shape of tables,
    // rosters' columns.
    name: '0008-rights-revision',
    up: [
      'CREATE TABLE rights_revision (id TINYINT PRIMARY KEY, revision BIGINT NOT NULL)',
      'INSERT INTO rights_revision VALUES (1, 1)',
    ],
  },
  {
    // A change of shape that was begun, so that it is brought to its end, or known not to have happened, after a server
    // was stopped in it.
    name: '0009-shape-intents',
    up: [
      'CREATE TABLE shape_intents (schema_name VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin PRIMARY ' +
        'KEY, change_text LONGTEXT NOT NULL, made_at DATETIME(3) NOT NULL)',
      // Versions of before a renaming still speak of the old names, which may be another column's by now.
      'ALTER TABLE versions ADD outdated VARCHAR(500) NULL',
      `UPDATE versions v SET outdated =
        'Tables or columns were renamed after this version was published, and it still speaks of the old names.'
        WHERE EXISTS (SELECT 1 FROM (SELECT portal_id, number, note FROM versions) later
        WHERE later.portal_id = v.portal_id AND later.number > v.number
          AND later.note LIKE 'As version % is called %')`,
    ],
  },
  {
    // A job is somebody's: a builder's, as all were, or a member's.
    name: '0010-owners-of-jobs',
    up: [
      "ALTER TABLE jobs ADD owner_kind VARCHAR(10) NOT NULL DEFAULT 'builder', ADD owner_id BIGINT NULL",
      'UPDATE jobs SET owner_id = builder_id',
      'ALTER TABLE jobs DROP COLUMN builder_id, ADD KEY (portal_id, owner_kind, owner_id, state)',
    ],
  },
  {
    // Members follow the rows of their rosters: who is gone keeps their row's place, should it come back, and an
    // address is held only by who is in.
    name: '0011-members-follow-rows',
    up: [
      `ALTER TABLE members CHANGE active on_roster BOOLEAN NOT NULL,
        ADD held_email VARCHAR(254) COLLATE utf8mb4_bin AS (IF(on_roster, email, NULL)) STORED,
        ADD known_since DATETIME NOT NULL DEFAULT CURRENT_TIMESTAMP, ADD gone_since DATETIME NULL,
        ADD last_in DATETIME NULL, ADD invited_at DATETIME NULL, ADD suspended LONGTEXT NULL, ADD given LONGTEXT NULL,
        ADD KEY found (portal_id, email), ADD KEY named (portal_id, name, id)`,
      'ALTER TABLE members DROP KEY portal_id, ADD UNIQUE KEY held (portal_id, held_email)',
      'ALTER TABLE memberships ADD portal_id BIGINT NULL, ADD holds BOOLEAN NOT NULL DEFAULT TRUE',
      'UPDATE memberships r JOIN members m ON m.id = r.member_id SET r.portal_id = m.portal_id',
      'ALTER TABLE memberships MODIFY portal_id BIGINT NOT NULL, MODIFY row_key VARCHAR(300) COLLATE utf8mb4_bin NOT ' +
        'NULL, ADD UNIQUE KEY (portal_id, roster_table, row_key)',
      `CREATE TABLE people_state (portal_id BIGINT PRIMARY KEY, refreshed_at DATETIME(3) NULL, outcome LONGTEXT NULL,
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      'INSERT INTO people_state (portal_id) SELECT id FROM portals',
      `ALTER TABLE sessions ADD id BIGINT NOT NULL AUTO_INCREMENT UNIQUE, ADD began_at DATETIME NULL,
        ADD device VARCHAR(300) NULL`,
    ],
  },
  {
    // What leaves the house, with what became of it; and the links in it, which work once.
    name: '0012-outbox',
    up: [
      `CREATE TABLE outbox (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NULL, member_id BIGINT NULL,
        kind VARCHAR(40) NOT NULL, recipient VARCHAR(254) NOT NULL, subject VARCHAR(500) NOT NULL,
        text LONGTEXT NOT NULL, html LONGTEXT NOT NULL, sealed LONGTEXT NULL, once_key VARCHAR(120) NULL,
        batch BIGINT NULL, state VARCHAR(12) NOT NULL, tries INT NOT NULL DEFAULT 0, answer VARCHAR(1000) NULL,
        made_at DATETIME(3) NOT NULL, next_try DATETIME(3) NOT NULL, not_after DATETIME(3) NULL,
        taken_by VARCHAR(40) NULL, sent_at DATETIME(3) NULL,
        UNIQUE KEY (once_key), KEY (state, next_try), KEY (portal_id, id), KEY (member_id), KEY (batch),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE,
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE CASCADE)`,
      // One for each time that somebody asks at a door, whoever they are: what is sent, if anything, comes after.
      `CREATE TABLE door_calls (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        email VARCHAR(254) COLLATE utf8mb4_bin NOT NULL, wants VARCHAR(20) NOT NULL, state VARCHAR(12) NOT NULL,
        code_hash CHAR(64) CHARACTER SET ascii NULL, tries INT NOT NULL DEFAULT 0, made_at DATETIME(3) NOT NULL,
        ends_at DATETIME(3) NOT NULL, KEY (state, id), KEY (portal_id, email, wants), KEY (ends_at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
      `CREATE TABLE links (token_hash CHAR(64) CHARACTER SET ascii PRIMARY KEY, kind VARCHAR(20) NOT NULL,
        member_id BIGINT NOT NULL, email VARCHAR(254) COLLATE utf8mb4_bin NOT NULL, expires_at DATETIME NOT NULL,
        used_at DATETIME NULL, KEY (member_id), KEY (expires_at),
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE CASCADE)`,
    ],
  },
  {
    name: '0013-further-proofs',
    up: [
      // What a session lacks until it lets anybody in: a second factor.
      'ALTER TABLE sessions ADD lacks VARCHAR(20) NULL',
      `CREATE TABLE second_factors (member_id BIGINT PRIMARY KEY, sealed_secret TEXT NOT NULL,
        last_step BIGINT NOT NULL, recovery LONGTEXT NOT NULL, made_at DATETIME NOT NULL,
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE CASCADE)`,
      `CREATE TABLE passkeys (id VARCHAR(700) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
        member_id BIGINT NOT NULL, name VARCHAR(100) NOT NULL, public_key TEXT NOT NULL, counter BIGINT NOT NULL,
        transports VARCHAR(200) NOT NULL, made_at DATETIME NOT NULL, used_at DATETIME NULL, KEY (member_id),
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE CASCADE)`,
      // What a browser was given to come back with, once.
      `CREATE TABLE tickets (ticket_hash CHAR(64) CHARACTER SET ascii PRIMARY KEY, kind VARCHAR(20) NOT NULL,
        portal_id BIGINT NOT NULL, browser_hash CHAR(64) CHARACTER SET ascii NOT NULL, content LONGTEXT NOT NULL,
        ends_at DATETIME(3) NOT NULL, KEY (ends_at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // Those who build have a right each; all who were there are owners.
    name: '0014-rights-of-builders',
    up: [
      `ALTER TABLE builders MODIFY password_hash VARCHAR(255) NULL, ADD \`right\` VARCHAR(10) NOT NULL DEFAULT 'owner',
        ADD portals LONGTEXT NULL, ADD suspended BOOLEAN NOT NULL DEFAULT FALSE, ADD last_in DATETIME NULL`,
      `CREATE TABLE builder_links (token_hash CHAR(64) CHARACTER SET ascii PRIMARY KEY, builder_id BIGINT NOT NULL,
        expires_at DATETIME NOT NULL, FOREIGN KEY (builder_id) REFERENCES builders (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // A code is good in the browser that asked for it; what was asked before is of no use any more.
    name: '0015-codes-of-browsers',
    up: ['DELETE FROM door_calls', 'ALTER TABLE door_calls ADD browser_hash CHAR(64) CHARACTER SET ascii NOT NULL'],
  },
  {
    // Records that stewards gave from one person to another, to be taken back within a day.
    name: '0016-hand-overs',
    up: [
      `CREATE TABLE hand_overs (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        member_id BIGINT NOT NULL, steward VARCHAR(64) NOT NULL, told LONGTEXT NOT NULL, records LONGTEXT NOT NULL,
        at DATETIME(3) NOT NULL, undone LONGTEXT NULL, KEY (portal_id, member_id, at), KEY (at),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE,
        FOREIGN KEY (member_id) REFERENCES members (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // Who asks to come in by a link, until they are a row of a roster.
    name: '0017-sign-ups',
    up: [
      `CREATE TABLE sign_ups (id BIGINT AUTO_INCREMENT PRIMARY KEY, portal_id BIGINT NOT NULL,
        sign_up VARCHAR(64) NOT NULL, email VARCHAR(254) COLLATE utf8mb4_bin NOT NULL, content LONGTEXT NOT NULL,
        state VARCHAR(12) NOT NULL, token_hash CHAR(64) CHARACTER SET ascii NULL, made_at DATETIME(3) NOT NULL,
        ends_at DATETIME(3) NOT NULL, decided VARCHAR(500) NULL, KEY (state, id), KEY (portal_id, sign_up, state),
        KEY (portal_id, email), UNIQUE (token_hash),
        FOREIGN KEY (portal_id) REFERENCES portals (id) ON DELETE CASCADE)`,
    ],
  },
  {
    // Whoever builds may be kept from personal data.
    name: '0018-sight',
    up: ['ALTER TABLE builders ADD sees_personal BOOLEAN NOT NULL DEFAULT TRUE'],
  },
  {
    // Members by an open domain stand on no roster.
    name: '0019-without-row',
    up: ['ALTER TABLE members ADD without_row BOOLEAN NOT NULL DEFAULT FALSE'],
  },
];
