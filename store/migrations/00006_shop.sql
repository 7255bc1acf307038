-- +goose Up
-- The shop around the jobs: vehicles, what closed jobs leave behind, accounts that can be closed, settings, read tokens.
ALTER TABLE users
  ADD COLUMN disabled TINYINT NOT NULL DEFAULT 0,
  ADD COLUMN trained TINYINT NOT NULL DEFAULT 0,
  ADD COLUMN epoch INT NOT NULL DEFAULT 0;

CREATE TABLE vehicles (
  id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  plate_key VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  vin VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  plate VARCHAR(200) NOT NULL DEFAULT '',
  name VARCHAR(200) NOT NULL DEFAULT '',
  pattern VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  joined_to CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL,
  due_at DATE NULL,
  last_job CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL,
  updated_at DATETIME(3) NOT NULL,
  KEY by_plate (plate_key),
  KEY by_vin (vin),
  KEY by_due (due_at, id),
  KEY by_joined (joined_to)
);

ALTER TABLE jobs
  ADD COLUMN vehicle_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL,
  ADD INDEX of_vehicle (vehicle_id, created_at);

CREATE TABLE job_facts (
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  vehicle_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL,
  pattern VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  opened_at DATETIME(3) NOT NULL,
  released_at DATETIME(3) NULL,
  was VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  named VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  right_named TINYINT NULL,
  first_time TINYINT NOT NULL DEFAULT 0,
  loops INT NOT NULL DEFAULT 0,
  reopened INT NOT NULL DEFAULT 0,
  back_days INT NULL,
  back_of CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL,
  unit_maker VARCHAR(120) NOT NULL DEFAULT '',
  unit_number VARCHAR(120) NOT NULL DEFAULT '',
  minutes DOUBLE NULL,
  water_before DOUBLE NULL,
  water_after DOUBLE NULL,
  fluid_days DOUBLE NULL,
  facts MEDIUMTEXT NOT NULL DEFAULT '',
  KEY by_vehicle (vehicle_id, released_at),
  KEY by_was (was, pattern),
  KEY figures (released_at, pattern, was, unit_maker, first_time, right_named, minutes),
  KEY water (opened_at, water_before, fluid_days),
  KEY back (opened_at, back_of, back_days),
  KEY by_back (back_of)
);

CREATE TABLE settings (
  id TINYINT NOT NULL PRIMARY KEY,
  body MEDIUMTEXT NOT NULL,
  updated_at DATETIME(3) NOT NULL
);

CREATE TABLE read_tokens (
  id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  created_by VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  used_at DATETIME(3) NULL,
  revoked_at DATETIME(3) NULL,
  UNIQUE KEY by_hash (hash)
);

-- +goose Down
DROP TABLE read_tokens;
DROP TABLE settings;
DROP TABLE job_facts;
DROP TABLE vehicles;
ALTER TABLE jobs DROP COLUMN vehicle_id;
ALTER TABLE users DROP COLUMN disabled, DROP COLUMN trained, DROP COLUMN epoch;
