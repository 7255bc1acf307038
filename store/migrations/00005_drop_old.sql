-- +goose Up
-- Migration 4 has put everything into the log.
DROP TABLE events;
ALTER TABLE jobs DROP COLUMN intake, DROP COLUMN intake_version, DROP COLUMN choices, DROP COLUMN choices_version;

-- +goose Down
SELECT 1;
