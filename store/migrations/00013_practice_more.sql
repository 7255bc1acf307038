-- +goose Up
-- How hard free practice is, and who came by a link: a guest belongs to one set exercise and is gone with it.
ALTER TABLE practices ADD COLUMN hardness VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '';
ALTER TABLE practice_sets ADD COLUMN hardness VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '';
ALTER TABLE users ADD COLUMN guest_of CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NULL, ADD KEY guests (guest_of);

-- +goose Down
ALTER TABLE users DROP COLUMN guest_of;
ALTER TABLE practice_sets DROP COLUMN hardness;
ALTER TABLE practices DROP COLUMN hardness;
