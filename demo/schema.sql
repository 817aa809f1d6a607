-- The Alder Fen Well Water Programme: an invented county service that tests private household wells.
CREATE TABLE owners (
  id INT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  email VARCHAR(120) NULL,
  phone VARCHAR(30) NULL,
  birth_date DATE NULL,
  tax_number VARCHAR(20) NULL,
  iban VARCHAR(34) NULL,
  postal_address VARCHAR(160) NOT NULL,
  parish VARCHAR(40) NOT NULL,
  contact_by ENUM('e-mail', 'phone', 'letter') NOT NULL DEFAULT 'e-mail',
  KEY (parish), KEY (email), KEY (name)
);
CREATE TABLE labs (
  id INT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  accreditation_number VARCHAR(20) NOT NULL,
  valid_until DATE NOT NULL
);
CREATE TABLE lab_staff (
  id INT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  email VARCHAR(120) NULL,
  lab_id INT NOT NULL,
  kind ENUM('chemist', 'courier') NOT NULL,
  leads BOOLEAN NOT NULL DEFAULT FALSE COMMENT 'looks after the couriers of the lab',
  KEY (email),
  FOREIGN KEY (lab_id) REFERENCES labs (id)
);
CREATE TABLE samplers (
  id INT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  email VARCHAR(120) NULL,
  phone VARCHAR(30) NULL,
  district VARCHAR(40) NOT NULL,
  active BOOLEAN NOT NULL
);
CREATE TABLE staff (
  id INT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  email VARCHAR(120) NULL,
  duty ENUM('desk', 'accounts', 'parish steward') NOT NULL,
  parish VARCHAR(40) NULL COMMENT 'that a steward looks after',
  KEY (email)
);
CREATE TABLE wells (
  id INT AUTO_INCREMENT PRIMARY KEY,
  code CHAR(7) NOT NULL UNIQUE,
  owner_id INT NULL,
  address VARCHAR(120) NOT NULL,
  postcode VARCHAR(10) NOT NULL,
  parish VARCHAR(40) NOT NULL,
  latitude DECIMAL(8,5) NOT NULL,
  longitude DECIMAL(8,5) NOT NULL,
  depth_m DECIMAL(5,1) NULL,
  casing ENUM('steel', 'plastic', 'concrete', 'stone') NULL,
  drilled_on DATE NULL,
  state ENUM('active', 'resting', 'closed') NOT NULL,
  treatment SET('softener', 'UV', 'iron filter', 'reverse osmosis', 'chlorination') NOT NULL DEFAULT '',
  photo VARCHAR(200) NULL,
  FOREIGN KEY (owner_id) REFERENCES owners (id),
  KEY (parish)
);
CREATE TABLE visits (
  id INT AUTO_INCREMENT PRIMARY KEY,
  well_id INT NOT NULL,
  sampler_id INT NULL,
  planned_by BIGINT NULL COMMENT 'the member who planned it',
  asked_on DATE NOT NULL,
  planned_for DATETIME NULL,
  state ENUM('asked', 'planned', 'sampled', 'at lab', 'reported', 'cancelled') NOT NULL,
  access_note VARCHAR(300) NULL,
  seal_number VARCHAR(12) NULL UNIQUE,
  fee DECIMAL(8,2) NULL,
  paid BOOLEAN NOT NULL DEFAULT FALSE,
  seal_photo VARCHAR(32) NULL,
  FOREIGN KEY (well_id) REFERENCES wells (id),
  FOREIGN KEY (sampler_id) REFERENCES samplers (id),
  KEY (planned_by), KEY (planned_for)
);
CREATE TABLE analytes (
  code VARCHAR(10) PRIMARY KEY,
  name VARCHAR(40) NOT NULL,
  unit VARCHAR(20) NOT NULL,
  limit_low DECIMAL(8,2) NULL,
  limit_value DECIMAL(8,2) NOT NULL,
  limit_kind ENUM('chemical', 'microbiological', 'indicator') NOT NULL
);
CREATE TABLE samples (
  id INT AUTO_INCREMENT PRIMARY KEY,
  visit_id INT NOT NULL,
  bottle_code CHAR(8) NOT NULL UNIQUE,
  lab_id INT NOT NULL,
  received_at DATETIME NULL,
  temperature_c DECIMAL(4,1) NULL,
  accepted BOOLEAN NULL,
  handed_over_at DATETIME NULL,
  tracking_number VARCHAR(20) NULL,
  FOREIGN KEY (visit_id) REFERENCES visits (id),
  FOREIGN KEY (lab_id) REFERENCES labs (id),
  KEY (received_at)
);
CREATE TABLE results (
  id INT AUTO_INCREMENT PRIMARY KEY,
  sample_id INT NOT NULL,
  analyte_code VARCHAR(10) NOT NULL,
  value DECIMAL(10,3) NULL,
  unit VARCHAR(20) NOT NULL,
  below_detection BOOLEAN NOT NULL,
  state ENUM('draft', 'submitted', 'approved') NOT NULL,
  remark VARCHAR(200) NULL,
  UNIQUE (sample_id, analyte_code),
  KEY (state),
  FOREIGN KEY (sample_id) REFERENCES samples (id),
  FOREIGN KEY (analyte_code) REFERENCES analytes (code)
);
CREATE TABLE advisories (
  id INT AUTO_INCREMENT PRIMARY KEY,
  parish VARCHAR(40) NOT NULL,
  title VARCHAR(120) NOT NULL,
  text TEXT NOT NULL,
  published BOOLEAN NOT NULL,
  valid_until DATE NULL
);
CREATE TABLE test_requests (
  id INT AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  email VARCHAR(120) NOT NULL,
  phone VARCHAR(30) NULL,
  parish VARCHAR(40) NOT NULL,
  message TEXT NULL,
  wished_for DATE NULL,
  KEY (parish)
);
CREATE TABLE doubts (
  id CHAR(32) NOT NULL PRIMARY KEY DEFAULT (LOWER(HEX(RANDOM_BYTES(16)))),
  parish VARCHAR(40) NOT NULL,
  what ENUM('smell', 'colour', 'taste', 'something near it') NOT NULL,
  words TEXT NOT NULL,
  KEY (parish)
);
