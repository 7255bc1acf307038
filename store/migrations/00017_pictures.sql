-- +goose Up
-- Pictures lie apart from the log, by the sum of their bytes, until they are brought to a store outside where one is named; and which
-- events they are of. What an older log has in it stays readable there; `geminate check --mend` takes it out.
CREATE TABLE pictures (
  sum CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  jpeg MEDIUMBLOB NOT NULL,
  kept_at DATETIME(3) NOT NULL
);
CREATE TABLE job_pictures (
  job_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  n INT NOT NULL,
  sum CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (job_id, n),
  KEY job_pictures_sum (sum)
);

-- +goose Down
DROP TABLE job_pictures;
DROP TABLE pictures;
