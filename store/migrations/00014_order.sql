-- +goose Up
-- What whoever told an event had seen of the log, and which device it was told on: from these comes the order of hands.
ALTER TABLE log ADD COLUMN base BIGINT NOT NULL DEFAULT 0;
ALTER TABLE log ADD COLUMN device VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE log DROP COLUMN device;
ALTER TABLE log DROP COLUMN base;
