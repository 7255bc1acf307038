-- +goose Up
-- The day a job is put down for, yyyy-mm-dd; empty for what is in the shop already.
ALTER TABLE jobs ADD COLUMN for_day VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '', ADD INDEX jobs_for_day (for_day);

-- +goose Down
ALTER TABLE jobs DROP INDEX jobs_for_day, DROP COLUMN for_day;
