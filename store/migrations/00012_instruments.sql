-- +goose Up
-- Instruments that speak for themselves. The secret is kept as a hash; an instrument belongs to one job at a time.
CREATE TABLE instruments (
  id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  kind VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name VARCHAR(120) NOT NULL,
  hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  accuracy DOUBLE NULL,
  calibrated_on VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  calibrated_by VARCHAR(120) NOT NULL DEFAULT '',
  holds_until VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL,
  added_by VARCHAR(120) NOT NULL,
  added_at DATETIME(3) NOT NULL,
  UNIQUE KEY by_hash (hash),
  KEY of_job (job_id)
);

-- +goose Down
DROP TABLE instruments;
