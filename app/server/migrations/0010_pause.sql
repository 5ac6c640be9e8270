-- While a record is judged and sealed with no transaction open, nothing is added to its attempt: for some seconds, and only where somebody keeps adding.
CREATE TABLE sealing_pause (
  attempt_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  until_at TIMESTAMP(6) NOT NULL,
  CONSTRAINT sealing_pause_attempt FOREIGN KEY (attempt_id) REFERENCES attempt (id)
);
-- each trigger says it itself: a plain dump of the database has triggers, and no procedures
CREATE TRIGGER reading_waits BEFORE INSERT ON reading FOR EACH ROW
  IF EXISTS (SELECT 1 FROM sealing_pause p WHERE p.attempt_id = NEW.attempt_id AND p.until_at > CURRENT_TIMESTAMP(6)) THEN
    SIGNAL SQLSTATE '45001' SET MESSAGE_TEXT = 'it is being signed just now';
  END IF;
CREATE TRIGGER event_waits BEFORE INSERT ON event FOR EACH ROW
  IF EXISTS (SELECT 1 FROM sealing_pause p WHERE p.attempt_id = NEW.attempt_id AND p.until_at > CURRENT_TIMESTAMP(6)) THEN
    SIGNAL SQLSTATE '45001' SET MESSAGE_TEXT = 'it is being signed just now';
  END IF;
CREATE TRIGGER recording_waits BEFORE INSERT ON recording FOR EACH ROW
  IF EXISTS (SELECT 1 FROM sealing_pause p WHERE p.attempt_id = NEW.attempt_id AND p.until_at > CURRENT_TIMESTAMP(6)) THEN
    SIGNAL SQLSTATE '45001' SET MESSAGE_TEXT = 'it is being signed just now';
  END IF;
CREATE TRIGGER correction_waits BEFORE INSERT ON correction FOR EACH ROW
  IF EXISTS (SELECT 1 FROM sealing_pause p WHERE p.attempt_id = NEW.attempt_id AND p.until_at > CURRENT_TIMESTAMP(6)) THEN
    SIGNAL SQLSTATE '45001' SET MESSAGE_TEXT = 'it is being signed just now';
  END IF;
CREATE TRIGGER struck_waits BEFORE INSERT ON struck FOR EACH ROW
  IF EXISTS (SELECT 1 FROM sealing_pause p WHERE p.attempt_id = NEW.attempt_id AND p.until_at > CURRENT_TIMESTAMP(6)) THEN
    SIGNAL SQLSTATE '45001' SET MESSAGE_TEXT = 'it is being signed just now';
  END IF;
