-- Ids and tags compare by bytes, free text by language. What is signed or logged is only ever added to: triggers and
-- grants both say so. No foreign key cascades, since cascades skip triggers.

CREATE TABLE person (
  id            CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  sign_in       VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL UNIQUE,
  role          VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  password_hash VARCHAR(255) COLLATE utf8mb4_bin NOT NULL,
  created_at    TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  CHECK (role IN ('engineer', 'supervisor', 'reader', 'inspector', 'witness', 'owner'))
);

CREATE TABLE session (
  id         VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  record     LONGTEXT    COLLATE utf8mb4_bin NOT NULL,
  expires_at TIMESTAMP   NOT NULL DEFAULT '2000-01-01 00:00:00',
  INDEX (expires_at)
);

CREATE TABLE instrument (
  tag     VARCHAR(64) COLLATE utf8mb4_bin NOT NULL PRIMARY KEY,
  body    LONGTEXT    COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(body)),
  version INT UNSIGNED NOT NULL DEFAULT 1
);

-- Plan and parts are edited, compared and sealed as one thing each, so each is one document.
CREATE TABLE pack (
  id         CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  number     VARCHAR(32)  COLLATE utf8mb4_bin NOT NULL UNIQUE,
  title      VARCHAR(200) NOT NULL,
  form       VARCHAR(8)   CHARACTER SET ascii COLLATE ascii_bin NOT NULL CHECK (form IN ('quick', 'pack')),
  plan       LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(plan)),
  cells      LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(cells)),
  version    INT UNSIGNED NOT NULL DEFAULT 1,
  created_by VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  updated_by VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  updated_at TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  FOREIGN KEY (created_by) REFERENCES person (sign_in),
  FOREIGN KEY (updated_by) REFERENCES person (sign_in)
);

CREATE TABLE punch (
  id         CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  pack_id    CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  number     VARCHAR(32)  COLLATE utf8mb4_bin NOT NULL,
  category   CHAR(1)      CHARACTER SET ascii COLLATE ascii_bin NOT NULL CHECK (category IN ('A', 'B', 'C')),
  text       VARCHAR(500) NOT NULL,
  owner      VARCHAR(64)  NOT NULL,
  cleared_by VARCHAR(64)  COLLATE utf8mb4_bin,
  cleared_at TIMESTAMP(6) NULL,
  UNIQUE (pack_id, number),
  CHECK ((cleared_by IS NULL) = (cleared_at IS NULL)),
  FOREIGN KEY (pack_id) REFERENCES pack (id),
  FOREIGN KEY (cleared_by) REFERENCES person (sign_in)
);

CREATE TABLE boundary_item (
  id      CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  pack_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  tag     VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  kind    VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL CHECK (kind IN ('blind', 'removed_item')),
  place   VARCHAR(200) NOT NULL,
  set_by  VARCHAR(64)  COLLATE utf8mb4_bin,
  set_at  TIMESTAMP(6) NULL,
  back_by VARCHAR(64)  COLLATE utf8mb4_bin,
  back_at TIMESTAMP(6) NULL,
  UNIQUE (pack_id, tag),
  CHECK ((set_by IS NULL) = (set_at IS NULL)),
  CHECK ((back_by IS NULL) = (back_at IS NULL)),
  CHECK (back_at IS NULL OR set_at IS NOT NULL),
  FOREIGN KEY (pack_id) REFERENCES pack (id),
  FOREIGN KEY (set_by) REFERENCES person (sign_in),
  FOREIGN KEY (back_by) REFERENCES person (sign_in)
);

-- One release of a pack for test. What was planned at that moment is frozen in it.
CREATE TABLE attempt (
  id                CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  pack_id           CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  number            INT UNSIGNED NOT NULL,
  follows           INT UNSIGNED,
  supersedes        CHAR(64)     CHARACTER SET ascii COLLATE ascii_bin,
  supersedes_reason VARCHAR(500),
  released_at       TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  released_by       VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  frozen            LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(frozen)),
  UNIQUE (pack_id, number),
  CHECK ((supersedes IS NULL) = (supersedes_reason IS NULL)),
  FOREIGN KEY (pack_id) REFERENCES pack (id),
  FOREIGN KEY (released_by) REFERENCES person (sign_in)
);

-- The content of a record, frozen by its first signature.
CREATE TABLE content (
  attempt_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  sha256     CHAR(64)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  parts      LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(parts)),
  made_at    TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id)
);

CREATE TABLE signature (
  id         CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  attempt_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  act        VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL CHECK (act IN ('performed', 'inspected', 'witnessed', 'accepted')),
  person     VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  statement  LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(statement)),
  signed_at  TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  UNIQUE (attempt_id, act),
  FOREIGN KEY (attempt_id) REFERENCES content (attempt_id),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);

-- A reading's id is made by whoever sends it, so that sending it again stores it once.
CREATE TABLE reading (
  id         CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  attempt_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  at         TIMESTAMP(6) NOT NULL DEFAULT '2000-01-01 00:00:00',
  channel    VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL CHECK (channel IN ('pressure', 'temperature')),
  value      DOUBLE       NOT NULL,
  as_typed   VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  person     VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  stored_at  TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  INDEX (attempt_id, at),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);

-- A logger's file byte for byte, beside its rows in a form that reads a million in well under a second.
CREATE TABLE recording (
  id         CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  attempt_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  file_name  VARCHAR(200) NOT NULL,
  sha256     CHAR(64)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  raw        LONGBLOB     NOT NULL,
  mapping    LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(mapping)),
  row_count  INT UNSIGNED NOT NULL,
  packed     LONGBLOB     NOT NULL,
  person     VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  stored_at  TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  UNIQUE (attempt_id, sha256),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);

CREATE TABLE event (
  id         CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  attempt_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  kind       VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  at         TIMESTAMP(6) NOT NULL DEFAULT '2000-01-01 00:00:00',
  place      VARCHAR(32)  CHARACTER SET ascii COLLATE ascii_bin,
  note       VARCHAR(500) NOT NULL,
  person     VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  stored_at  TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  INDEX (attempt_id, at),
  CHECK (kind IN ('filled', 'step_reached', 'pump_off', 'look_done', 'leak_seen', 'repump', 'bleed', 'hold_ended', 'released', 'vent_opened', 'drained')),
  CHECK ((kind = 'leak_seen') = (place IS NOT NULL)),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);

-- How a logger's files are read, remembered by the names of their columns.
CREATE TABLE logger_mapping (
  header_sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  mapping       LONGTEXT COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(mapping))
);

CREATE TRIGGER attempt_keeps BEFORE UPDATE ON attempt FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a released attempt is never changed';
CREATE TRIGGER attempt_stays BEFORE DELETE ON attempt FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a released attempt is never deleted';
CREATE TRIGGER content_keeps BEFORE UPDATE ON content FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'signed content is never changed';
CREATE TRIGGER content_stays BEFORE DELETE ON content FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'signed content is never deleted';
CREATE TRIGGER signature_keeps BEFORE UPDATE ON signature FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a signature is never changed';
CREATE TRIGGER signature_stays BEFORE DELETE ON signature FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a signature is never deleted';
CREATE TRIGGER reading_keeps BEFORE UPDATE ON reading FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a reading is never changed';
CREATE TRIGGER reading_stays BEFORE DELETE ON reading FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a reading is never deleted';
CREATE TRIGGER recording_keeps BEFORE UPDATE ON recording FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a recording is never changed';
CREATE TRIGGER recording_stays BEFORE DELETE ON recording FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a recording is never deleted';
CREATE TRIGGER event_keeps BEFORE UPDATE ON event FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'an event is never changed';
CREATE TRIGGER event_stays BEFORE DELETE ON event FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'an event is never deleted';

-- Signing locks the attempt's row before it reads what it freezes; these wait for that lock, and so never slip in between.
CREATE TRIGGER reading_before_signing BEFORE INSERT ON reading FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt WHERE id = NEW.attempt_id LOCK IN SHARE MODE;
  SELECT COUNT(*) INTO found FROM content WHERE attempt_id = NEW.attempt_id LOCK IN SHARE MODE;
  IF found > 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'no reading is added to a signed record';
  END IF;
END;
CREATE TRIGGER recording_before_signing BEFORE INSERT ON recording FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt WHERE id = NEW.attempt_id LOCK IN SHARE MODE;
  SELECT COUNT(*) INTO found FROM content WHERE attempt_id = NEW.attempt_id LOCK IN SHARE MODE;
  IF found > 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'no recording is added to a signed record';
  END IF;
END;
CREATE TRIGGER event_before_signing BEFORE INSERT ON event FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt WHERE id = NEW.attempt_id LOCK IN SHARE MODE;
  SELECT COUNT(*) INTO found FROM content WHERE attempt_id = NEW.attempt_id LOCK IN SHARE MODE;
  IF found > 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'no event is added to a signed record';
  END IF;
END;
