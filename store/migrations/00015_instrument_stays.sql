-- +goose Up
-- At which job an instrument was, from when until when: a reading is of the vehicle it was at at that moment.
CREATE TABLE instrument_stays (
  id BIGINT AUTO_INCREMENT PRIMARY KEY,
  instrument_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  job_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  from_at DATETIME(6) NOT NULL,
  to_at DATETIME(6) NULL,
  KEY instrument_stays_job (job_id, from_at),
  KEY instrument_stays_instrument (instrument_id, to_at)
);
-- What was cut out of instruments' readings, by its sum: a trace that is told is one of these.
CREATE TABLE trace_cuts (
  sum CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  job_id VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  made_at DATETIME(6) NOT NULL,
  PRIMARY KEY (job_id, sum),
  KEY trace_cuts_made (made_at)
);
INSERT INTO instrument_stays (instrument_id, job_id, from_at) SELECT id, job_id, UTC_TIMESTAMP(6) FROM instruments WHERE job_id IS NOT NULL;

-- +goose Down
DROP TABLE trace_cuts;
DROP TABLE instrument_stays;
