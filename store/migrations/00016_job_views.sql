-- +goose Up
-- The fold of a job, kept by every so many events and folded on from there: what is written at every event stays small, and the row that
-- everything looks at is not rewritten with it.
CREATE TABLE job_views (
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  head INT NOT NULL,
  fold INT NOT NULL,
  view MEDIUMTEXT NOT NULL
);
INSERT INTO job_views (job_id, head, fold, view) SELECT id, head, fold, view FROM jobs WHERE view <> '';
ALTER TABLE jobs DROP COLUMN view, DROP COLUMN fold;

-- +goose Down
ALTER TABLE jobs ADD COLUMN fold INT NOT NULL DEFAULT 0, ADD COLUMN view MEDIUMTEXT NOT NULL DEFAULT '';
UPDATE jobs j JOIN job_views v ON v.job_id = j.id SET j.view = v.view, j.fold = v.fold;
DROP TABLE job_views;
