-- +goose Up
-- The shops of a chain, kept in the first shop's database alone: every other shop has a database of its own.
CREATE TABLE shops (
  code VARCHAR(20) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  made_at DATETIME(3) NOT NULL
);

-- +goose Down
DROP TABLE shops;
