-- +goose Up
CREATE TABLE users (
  id CHAR(36) NOT NULL PRIMARY KEY,
  name VARCHAR(80) NOT NULL UNIQUE,
  display VARCHAR(120) NOT NULL,
  role VARCHAR(20) NOT NULL,
  password_hash VARCHAR(255) NOT NULL,
  units VARCHAR(10) NOT NULL DEFAULT 'both',
  theme VARCHAR(10) NOT NULL DEFAULT 'day',
  created_at DATETIME(3) NOT NULL
);

-- What the web layer keeps between requests: sessions, request forgery tokens, sign-in counts.
CREATE TABLE web_state (
  k VARCHAR(190) NOT NULL PRIMARY KEY,
  v MEDIUMBLOB NOT NULL,
  expires_at DATETIME(3) NULL,
  INDEX (expires_at)
);

-- intake and choices are documents edited by hand, each under its own version; everything that
-- happens is appended to events.
CREATE TABLE jobs (
  id CHAR(36) NOT NULL PRIMARY KEY,
  intake MEDIUMTEXT NOT NULL,
  intake_version INT NOT NULL,
  choices MEDIUMTEXT NOT NULL,
  choices_version INT NOT NULL,
  created_at DATETIME(3) NOT NULL,
  updated_at DATETIME(3) NOT NULL,
  INDEX (updated_at)
);

CREATE TABLE events (
  seq BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  job_id CHAR(36) NOT NULL,
  id VARCHAR(64) NOT NULL,
  kind VARCHAR(30) NOT NULL,
  at DATETIME(3) NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  data MEDIUMTEXT NOT NULL,
  UNIQUE (job_id, id),
  CONSTRAINT events_of_job FOREIGN KEY (job_id) REFERENCES jobs (id) ON DELETE CASCADE
);

CREATE TABLE units (
  id VARCHAR(64) NOT NULL PRIMARY KEY,
  place INT NOT NULL,
  unit MEDIUMTEXT NOT NULL
);

-- +goose Down
DROP TABLE units;
DROP TABLE events;
DROP TABLE jobs;
DROP TABLE web_state;
DROP TABLE users;
