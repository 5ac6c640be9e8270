-- A mistyped reading is struck out with a reason; both stay. How a logger's file is read is remembered for the person who read it.

CREATE TABLE struck (
  reading_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  attempt_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  reason     VARCHAR(300) NOT NULL CHECK (CHAR_LENGTH(reason) > 2),
  person     VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  at         TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  FOREIGN KEY (reading_id) REFERENCES reading (id),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);
CREATE TRIGGER struck_keeps BEFORE UPDATE ON struck FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'what is struck out stays struck out';
CREATE TRIGGER struck_stays BEFORE DELETE ON struck FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'what is struck out stays struck out';
CREATE TRIGGER struck_before_signing BEFORE INSERT ON struck FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt WHERE id = NEW.attempt_id LOCK IN SHARE MODE;
  SELECT COUNT(*) INTO found FROM content WHERE attempt_id = NEW.attempt_id LOCK IN SHARE MODE;
  IF found > 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is struck out of a signed record';
  END IF;
END;

DROP TABLE logger_mapping;
CREATE TABLE logger_mapping (
  header_sha256 CHAR(64)    CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person        VARCHAR(64) COLLATE utf8mb4_bin NOT NULL,
  mapping       LONGTEXT    COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(mapping)),
  PRIMARY KEY (header_sha256, person),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);
