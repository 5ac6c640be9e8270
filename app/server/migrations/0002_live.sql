-- What the recorder polls. A tick is one instant with every channel that was read then; its sequence is given under the lease, so that
-- it rises without a gap and two servers never store one instant twice.

CREATE TABLE recorder_lease (
  attempt_id CHAR(36)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  holder     CHAR(36)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  expires_at TIMESTAMP(6)    NOT NULL DEFAULT '2000-01-01 00:00:00',
  last_seq   BIGINT UNSIGNED NOT NULL DEFAULT 0,
  FOREIGN KEY (attempt_id) REFERENCES attempt (id)
);

CREATE TABLE tick (
  attempt_id CHAR(36)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  seq        BIGINT UNSIGNED NOT NULL,
  at_us      BIGINT          NOT NULL,
  body       VARBINARY(4096) NOT NULL,
  stored_at  TIMESTAMP(6)    NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  PRIMARY KEY (attempt_id, seq),
  UNIQUE (attempt_id, at_us),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id)
);

CREATE TRIGGER tick_keeps BEFORE UPDATE ON tick FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a reading is never changed';
CREATE TRIGGER tick_stays BEFORE DELETE ON tick FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a reading is never deleted';
CREATE TRIGGER tick_before_signing BEFORE INSERT ON tick FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt WHERE id = NEW.attempt_id LOCK IN SHARE MODE;
  SELECT COUNT(*) INTO found FROM content WHERE attempt_id = NEW.attempt_id LOCK IN SHARE MODE;
  IF found > 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'no reading is added to a signed record';
  END IF;
END;

ALTER TABLE event DROP CONSTRAINT CONSTRAINT_1;
ALTER TABLE event ADD CONSTRAINT event_kind CHECK (kind IN ('filled', 'step_reached', 'pump_off', 'look_done', 'leak_seen', 'repump', 'bleed', 'hold_ended', 'released', 'vent_opened', 'drained', 'noted'));

-- A look may be booked class by class, with how many places were looked at.
ALTER TABLE event ADD COLUMN looked INT UNSIGNED NULL;
ALTER TABLE event DROP CONSTRAINT CONSTRAINT_2;
ALTER TABLE event ADD CONSTRAINT event_place CHECK (CASE kind WHEN 'leak_seen' THEN place IS NOT NULL WHEN 'look_done' THEN TRUE ELSE place IS NULL END);
ALTER TABLE event ADD CONSTRAINT event_looked CHECK (looked IS NULL OR (kind = 'look_done' AND place IS NOT NULL AND looked > 0));
