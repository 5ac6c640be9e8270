-- Administrators, accounts that are ended and keep their history, and a log of what concerns the security of the installation.

ALTER TABLE person DROP CONSTRAINT CONSTRAINT_1;
ALTER TABLE person
  ADD CONSTRAINT person_role CHECK (role IN ('engineer', 'supervisor', 'reader', 'inspector', 'witness', 'owner', 'administrator')),
  ADD COLUMN ended_at TIMESTAMP(6) NULL;
CREATE TRIGGER person_stays BEFORE DELETE ON person FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'an account is ended, never deleted';

-- whose session it is, so that a row in somebody's name needs one of theirs
ALTER TABLE session ADD COLUMN person VARCHAR(64) COLLATE utf8mb4_bin NULL, ADD INDEX (person, expires_at);
-- whoever is signed in while this is done goes on booking
UPDATE session SET person = JSON_VALUE(record, '$.data.who.sign_in');

CREATE TABLE security_log (
  seq     BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  at_us   BIGINT          NOT NULL,
  what    VARCHAR(32)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  account VARCHAR(64)     COLLATE utf8mb4_bin NOT NULL,
  address VARCHAR(45)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  detail  VARCHAR(500)    COLLATE utf8mb4_bin NOT NULL,
  hash    CHAR(64)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL
);
CREATE TRIGGER security_log_keeps BEFORE UPDATE ON security_log FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the security log is never changed';
CREATE TRIGGER security_log_stays BEFORE DELETE ON security_log FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the security log is never deleted from';

-- one line: whoever adds to the log holds it
CREATE TABLE security_head (
  id  TINYINT UNSIGNED NOT NULL PRIMARY KEY CHECK (id = 1)
);
INSERT INTO security_head (id) VALUES (1);

-- a row in somebody's name needs an account that is not ended, does not only administer, and is signed in
CREATE TRIGGER reading_in_own_name BEFORE INSERT ON reading FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM person p WHERE p.sign_in = NEW.person AND p.ended_at IS NULL AND p.role <> 'administrator'
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in';
  END IF;
END;
CREATE TRIGGER event_in_own_name BEFORE INSERT ON event FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM person p WHERE p.sign_in = NEW.person AND p.ended_at IS NULL AND p.role <> 'administrator'
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in';
  END IF;
END;
CREATE TRIGGER recording_in_own_name BEFORE INSERT ON recording FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM person p WHERE p.sign_in = NEW.person AND p.ended_at IS NULL AND p.role <> 'administrator'
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in';
  END IF;
END;
CREATE TRIGGER correction_in_own_name BEFORE INSERT ON correction FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM person p WHERE p.sign_in = NEW.person AND p.ended_at IS NULL AND p.role <> 'administrator'
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in';
  END IF;
END;
CREATE TRIGGER struck_in_own_name BEFORE INSERT ON struck FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM person p WHERE p.sign_in = NEW.person AND p.ended_at IS NULL AND p.role <> 'administrator'
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in';
  END IF;
END;
CREATE TRIGGER attempt_in_own_name BEFORE INSERT ON attempt FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM person p WHERE p.sign_in = NEW.released_by AND p.ended_at IS NULL AND p.role <> 'administrator'
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is released in the name of somebody who is not signed in';
  END IF;
END;
CREATE TRIGGER signature_in_own_name BEFORE INSERT ON signature FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM person p WHERE p.sign_in = NEW.person AND p.ended_at IS NULL AND p.role <> 'administrator'
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is signed in the name of somebody who is not signed in';
  END IF;
  IF NOT (COALESCE(JSON_VALUE(NEW.statement, '$.person'), '') = NEW.person AND COALESCE(JSON_VALUE(NEW.statement, '$.act'), '') = NEW.act) THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a signature says who signs and what as its statement does';
  END IF;
END;
