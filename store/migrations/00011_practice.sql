-- +goose Up
-- A practice job's vehicle: which exercise, by which seed, and what was done to it. The truth is none of it: it is drawn anew.
CREATE TABLE practices (
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  exercise VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  pattern VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  seed BIGINT UNSIGNED NOT NULL,
  set_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL,
  user_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  user_name VARCHAR(120) NOT NULL,
  started_at DATETIME(3) NOT NULL,
  ended_at DATETIME(3) NULL,
  total DOUBLE NULL,
  did MEDIUMTEXT NOT NULL,
  result MEDIUMTEXT NOT NULL,
  KEY of_user (user_id, started_at),
  KEY of_set (set_id, started_at),
  KEY by_start (started_at)
);

CREATE TABLE practice_sets (
  id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  exercise VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  pattern VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  seed BIGINT UNSIGNED NOT NULL,
  due_on VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  people TEXT NOT NULL,
  set_by VARCHAR(120) NOT NULL,
  set_at DATETIME(3) NOT NULL,
  KEY by_day (set_at)
);

-- +goose Down
DROP TABLE practice_sets;
DROP TABLE practices;
