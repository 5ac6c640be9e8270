-- People and projects are looked after in the application: one-time links in the place of passwords that somebody else knows, a second factor, sessions that
-- say where they are, and tests that were begun by mistake put away.

-- only the hash of a link's token is kept
CREATE TABLE invitation (
  token_sha256 CHAR(64)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  person       VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  made_by      VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  made_at      TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  expires_at   TIMESTAMP(6) NOT NULL DEFAULT '2000-01-01 00:00:00',
  INDEX (person),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);

-- the secret is made of the sealing key and this salt; the last step that was used is not taken again
CREATE TABLE second_factor (
  person       VARCHAR(64)     COLLATE utf8mb4_bin NOT NULL PRIMARY KEY,
  salt         CHAR(32)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  confirmed_at TIMESTAMP(6)    NULL,
  last_step    BIGINT UNSIGNED NOT NULL DEFAULT 0,
  FOREIGN KEY (person) REFERENCES person (sign_in)
);

ALTER TABLE session ADD COLUMN made_at TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6);

ALTER TABLE site
  ADD COLUMN second_factor VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'offered',
  ADD CONSTRAINT site_second_factor CHECK (second_factor IN ('offered', 'administrators', 'everybody'));

-- what the server ends it cannot open again: that is for the owner of the database
CREATE TRIGGER person_ended BEFORE UPDATE ON person FOR EACH ROW
  IF OLD.ended_at IS NOT NULL AND NEW.ended_at IS NULL AND SUBSTRING_INDEX(USER(), '@', 1) = 'zl_server' THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'an account that was ended is opened again by the owner of the database alone';
  END IF;
-- one of them stays, whoever asks
CREATE TRIGGER person_last_administrator AFTER UPDATE ON person FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  IF OLD.administrator AND OLD.ended_at IS NULL AND (NEW.ended_at IS NOT NULL OR NOT NEW.administrator) THEN
    SELECT COUNT(*) INTO found FROM person WHERE administrator AND ended_at IS NULL;
    IF found = 0 AND SUBSTRING_INDEX(USER(), '@', 1) = 'zl_server' THEN
      SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the last administrator stays: name another first';
    END IF;
  END IF;
END;

-- a test that was begun by mistake leaves every list, with a reason; one that holds a reading stays
ALTER TABLE pack
  ADD COLUMN away_at     TIMESTAMP(6) NULL,
  ADD COLUMN away_by     VARCHAR(64)  COLLATE utf8mb4_bin NULL,
  ADD COLUMN away_reason VARCHAR(500) NULL,
  ADD CONSTRAINT pack_away CHECK ((away_at IS NULL) = (away_by IS NULL) AND (away_at IS NULL) = (away_reason IS NULL));

DROP TRIGGER pack_line_due;
CREATE TRIGGER pack_line_due AFTER UPDATE ON pack FOR EACH ROW
BEGIN
  INSERT INTO pack_due (pack_id, project_id) VALUES (NEW.id, NEW.project_id) ON DUPLICATE KEY UPDATE seq = seq + 1, project_id = NEW.project_id;
  IF NEW.away_at IS NULL AND OLD.away_at IS NOT NULL THEN
    INSERT IGNORE INTO pack_line (pack_id, project_id, number, number_key, title, form) VALUES (NEW.id, NEW.project_id, NEW.number, NEW.number, NEW.title, NEW.form);
  END IF;
  DELETE FROM pack_person WHERE pack_id = NEW.id AND person <> NEW.created_by;
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.performs') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.performs'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.inspects') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.inspects'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.witnesses') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.witnesses'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.accepts') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.accepts'), '') <> '';
END;
