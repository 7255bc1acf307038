-- +goose Up
-- What each closed job adds to the shop's figures, and their sums by day: a figure reads sums, and opens to its jobs.
ALTER TABLE job_facts
  ADD COLUMN came_back INT NULL,
  ADD COLUMN tallied TINYINT NOT NULL DEFAULT 0,
  ADD INDEX by_tallied (tallied);

CREATE TABLE job_tallies (
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  of_what VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  day DATE NOT NULL,
  value DOUBLE NOT NULL,
  PRIMARY KEY (job_id, kind, of_what),
  KEY of_kind (kind, of_what, day, job_id)
);

CREATE TABLE tally_days (
  day DATE NOT NULL,
  kind VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  of_what VARCHAR(120) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  n BIGINT NOT NULL,
  total DOUBLE NOT NULL,
  PRIMARY KEY (day, kind, of_what)
);

-- The comebacks known so far, told to the job they are of.
UPDATE job_facts f JOIN (SELECT back_of, MIN(back_days) days FROM job_facts WHERE back_of IS NOT NULL GROUP BY back_of) b ON b.back_of = f.job_id
  SET f.came_back = b.days;

-- +goose Down
DROP TABLE tally_days;
DROP TABLE job_tallies;
ALTER TABLE job_facts DROP COLUMN came_back, DROP COLUMN tallied;
