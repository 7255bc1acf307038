-- +goose Up
-- What a unit is searched by stands in columns of its own; the document stays the truth.
ALTER TABLE units
  ADD COLUMN shelf TINYINT NOT NULL DEFAULT 1,
  ADD COLUMN kind VARCHAR(32) NOT NULL DEFAULT 'master_cylinder',
  ADD COLUMN maker VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN number VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN bore_mm DOUBLE NULL,
  ADD COLUMN stud_spacing_mm DOUBLE NULL,
  ADD COLUMN pocket_mm DOUBLE NULL,
  ADD COLUMN shell_mm DOUBLE NULL,
  ADD COLUMN firewall_spacing_mm DOUBLE NULL,
  ADD INDEX by_shelf (shelf, place),
  ADD INDEX by_cylinder (kind, bore_mm, stud_spacing_mm, pocket_mm),
  ADD INDEX by_booster (kind, firewall_spacing_mm, shell_mm),
  ADD INDEX by_number (number);

-- Long work that outlives its request: any server of the shop can say how far it is.
CREATE TABLE imports (
  id CHAR(36) NOT NULL PRIMARY KEY,
  name VARCHAR(200) NOT NULL,
  state VARCHAR(20) NOT NULL,
  done INT NOT NULL,
  total INT NOT NULL,
  problems MEDIUMTEXT NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  updated_at DATETIME(3) NOT NULL
);

-- +goose Down
DROP TABLE imports;
ALTER TABLE units DROP INDEX by_shelf, DROP INDEX by_cylinder, DROP INDEX by_booster, DROP INDEX by_number,
  DROP COLUMN shelf, DROP COLUMN kind, DROP COLUMN maker, DROP COLUMN number, DROP COLUMN bore_mm, DROP COLUMN stud_spacing_mm,
  DROP COLUMN pocket_mm, DROP COLUMN shell_mm, DROP COLUMN firewall_spacing_mm;
