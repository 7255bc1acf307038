-- +goose Up
-- A job is its log. n counts within the job and orders it; ids are compared to the letter.
CREATE TABLE log (
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  n INT NOT NULL,
  id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind VARCHAR(30) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  at DATETIME(3) NOT NULL,
  stored_at DATETIME(3) NOT NULL,
  by_id VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  by_name VARCHAR(120) NOT NULL,
  by_role VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  elsewhere TINYINT NOT NULL DEFAULT 0,
  data MEDIUMTEXT NOT NULL,
  PRIMARY KEY (job_id, n),
  UNIQUE KEY by_event (job_id, id),
  KEY by_kind (job_id, kind, n)
);

ALTER TABLE events DROP FOREIGN KEY events_of_job;

-- What lists, searches and the next event need stands in columns, written in the event's own transaction.
ALTER TABLE jobs
  MODIFY id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  ADD COLUMN head INT NOT NULL DEFAULT 0,
  ADD COLUMN fold INT NOT NULL DEFAULT 0,
  ADD COLUMN view MEDIUMTEXT NOT NULL DEFAULT '',
  ADD COLUMN card MEDIUMTEXT NOT NULL DEFAULT '',
  ADD COLUMN search_text TEXT NOT NULL DEFAULT '',
  ADD COLUMN standing VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  ADD COLUMN station VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  ADD INDEX by_standing (standing, updated_at, id),
  ADD INDEX by_station (standing, station, updated_at, id),
  ADD INDEX by_update (updated_at, id);

CREATE TABLE job_words (
  word VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (word, job_id),
  KEY of_job (job_id, word)
);

CREATE TABLE job_counts (
  standing VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  station VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  n BIGINT NOT NULL,
  PRIMARY KEY (standing, station)
);

-- Who did what in the shop; read by the lead.
CREATE TABLE audit (
  seq BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(3) NOT NULL,
  request VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  user_id VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  user_name VARCHAR(120) NOT NULL DEFAULT '',
  role VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  action VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  job_id VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  address VARCHAR(45) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  detail TEXT NOT NULL DEFAULT '',
  KEY of_job (job_id, seq),
  KEY of_action (action, seq)
);

-- Who has a job open; rows grow old by themselves.
CREATE TABLE presence (
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  tab VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  user_id VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(120) NOT NULL,
  seen_at DATETIME(3) NOT NULL,
  PRIMARY KEY (job_id, tab),
  KEY by_age (seen_at)
);

-- +goose Down
DROP TABLE presence;
DROP TABLE audit;
DROP TABLE job_counts;
DROP TABLE job_words;
DROP TABLE log;
