-- +goose Up
-- The language a person reads Geminate in; empty is the browser's.
ALTER TABLE users ADD COLUMN language VARCHAR(5) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE users DROP COLUMN language;
