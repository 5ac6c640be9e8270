-- The recorder's own time: what it counted by a clock that nobody sets, beside what the installation's clock showed. They differ once that
-- clock was set anew; each such moment is kept, with how far the clock stands ahead since.

ALTER TABLE tick ADD COLUMN run_us BIGINT NOT NULL DEFAULT 0;
DROP TRIGGER tick_keeps;
UPDATE tick SET run_us = at_us;
CREATE TRIGGER tick_keeps BEFORE UPDATE ON tick FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a reading is never changed';
ALTER TABLE tick DROP INDEX attempt_id, ADD UNIQUE (attempt_id, run_us);

ALTER TABLE recorder_lease
  ADD COLUMN boot      CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  ADD COLUMN steady_us BIGINT NOT NULL DEFAULT 0,
  ADD COLUMN run_us    BIGINT NOT NULL DEFAULT 0,
  ADD COLUMN lead_us   BIGINT NOT NULL DEFAULT 0,
  -- where the rig of a practice run answers, on loopback of the machine that records it
  ADD COLUMN rig_port  SMALLINT UNSIGNED NULL;

CREATE TABLE clock_set (
  attempt_id CHAR(36)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  seq        BIGINT UNSIGNED NOT NULL,
  at_us      BIGINT          NOT NULL,
  run_us     BIGINT          NOT NULL,
  lead_us    BIGINT          NOT NULL,
  PRIMARY KEY (attempt_id, seq),
  FOREIGN KEY (attempt_id, seq) REFERENCES tick (attempt_id, seq)
);
CREATE TRIGGER clock_set_keeps BEFORE UPDATE ON clock_set FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'when a clock was set is never changed';
CREATE TRIGGER clock_set_stays BEFORE DELETE ON clock_set FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'when a clock was set is never deleted';

-- How far the clock that a person read stood ahead of the run's own time.
ALTER TABLE event ADD COLUMN lead_us BIGINT NOT NULL DEFAULT 0;
ALTER TABLE reading ADD COLUMN lead_us BIGINT NOT NULL DEFAULT 0;
