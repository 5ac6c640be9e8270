-- Projects: packs, specification, zone, units, numbering and roles belong to a project; instruments belong to the site and are lent to projects. What
-- was there before stands in a first project of its own.

-- what the site is called, and its zone and units; empty until somebody says so
CREATE TABLE site (
  id    TINYINT UNSIGNED NOT NULL PRIMARY KEY CHECK (id = 1),
  name  VARCHAR(120) NOT NULL,
  zone  VARCHAR(64)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  units VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin NOT NULL
);
INSERT INTO site (id, name, zone, units) VALUES (1, '', '', '');

CREATE TABLE project (
  id           CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  name         VARCHAR(120) NOT NULL UNIQUE,
  -- the site's where there is none
  zone         VARCHAR(64)  CHARACTER SET ascii COLLATE ascii_bin NULL,
  units        VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin NULL,
  pack_prefix  VARCHAR(16)  COLLATE utf8mb4_bin NOT NULL DEFAULT 'TP',
  quick_prefix VARCHAR(16)  COLLATE utf8mb4_bin NOT NULL DEFAULT 'QT',
  version      INT UNSIGNED NOT NULL DEFAULT 1
);
INSERT INTO project (id, name)
  SELECT '01900000-0000-7000-8000-000000000001', 'First project' FROM DUAL
  WHERE EXISTS (SELECT 1 FROM pack) OR EXISTS (SELECT 1 FROM person WHERE role <> 'administrator');

ALTER TABLE person ADD COLUMN administrator BOOLEAN NOT NULL DEFAULT FALSE;
UPDATE person SET administrator = (role = 'administrator');

CREATE TABLE member (
  project_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person     VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  role       VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  since      TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  PRIMARY KEY (project_id, person),
  INDEX (person),
  CONSTRAINT member_role CHECK (role IN ('engineer', 'supervisor', 'reader', 'inspector', 'witness', 'owner')),
  FOREIGN KEY (project_id) REFERENCES project (id),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);
INSERT INTO member (project_id, person, role)
  SELECT project.id, person.sign_in, person.role FROM person, project WHERE person.role <> 'administrator';
ALTER TABLE person DROP CONSTRAINT person_role;
ALTER TABLE person DROP COLUMN role;
-- whoever looks after the installation has no part in any test
CREATE TRIGGER member_tests BEFORE INSERT ON member FOR EACH ROW
  IF EXISTS (SELECT 1 FROM person p WHERE p.sign_in = NEW.person AND p.administrator) THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'an administrator has no part in any test';
  END IF;

ALTER TABLE pack ADD COLUMN project_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '01900000-0000-7000-8000-000000000001' AFTER id;
ALTER TABLE pack ALTER COLUMN project_id DROP DEFAULT;
ALTER TABLE pack ADD CONSTRAINT pack_project FOREIGN KEY (project_id) REFERENCES project (id), DROP INDEX number, ADD CONSTRAINT pack_number UNIQUE (project_id, number);

CREATE TABLE project_specification (
  project_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  body       LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(body)),
  version    INT UNSIGNED NOT NULL DEFAULT 1,
  FOREIGN KEY (project_id) REFERENCES project (id)
);
INSERT INTO project_specification (project_id, body, version) SELECT project.id, s.body, s.version FROM specification s, project;
DROP TABLE specification;
ALTER TABLE specification_state ADD COLUMN project_id CHAR(36) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '01900000-0000-7000-8000-000000000001' FIRST;
ALTER TABLE specification_state ALTER COLUMN project_id DROP DEFAULT;
ALTER TABLE specification_state DROP PRIMARY KEY, ADD PRIMARY KEY (project_id, version), ADD CONSTRAINT state_project FOREIGN KEY (project_id) REFERENCES project (id);

-- to which projects an instrument of the site is lent by its keeper
CREATE TABLE instrument_loan (
  tag        VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  project_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (tag, project_id),
  INDEX (project_id),
  FOREIGN KEY (tag) REFERENCES instrument (tag),
  FOREIGN KEY (project_id) REFERENCES project (id)
);
INSERT INTO instrument_loan (tag, project_id) SELECT instrument.tag, project.id FROM instrument, project;

-- a row in somebody's name needs an account that is not ended, has a part in the project, and is signed in
CREATE OR REPLACE TRIGGER reading_in_own_name BEFORE INSERT ON reading FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt a JOIN pack k ON k.id = a.pack_id JOIN member m ON m.project_id = k.project_id JOIN person p ON p.sign_in = m.person
     WHERE a.id = NEW.attempt_id AND p.sign_in = NEW.person AND p.ended_at IS NULL AND NOT p.administrator
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in or has no part in the project';
  END IF;
END;
CREATE OR REPLACE TRIGGER event_in_own_name BEFORE INSERT ON event FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt a JOIN pack k ON k.id = a.pack_id JOIN member m ON m.project_id = k.project_id JOIN person p ON p.sign_in = m.person
     WHERE a.id = NEW.attempt_id AND p.sign_in = NEW.person AND p.ended_at IS NULL AND NOT p.administrator
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in or has no part in the project';
  END IF;
END;
CREATE OR REPLACE TRIGGER recording_in_own_name BEFORE INSERT ON recording FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt a JOIN pack k ON k.id = a.pack_id JOIN member m ON m.project_id = k.project_id JOIN person p ON p.sign_in = m.person
     WHERE a.id = NEW.attempt_id AND p.sign_in = NEW.person AND p.ended_at IS NULL AND NOT p.administrator
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in or has no part in the project';
  END IF;
END;
CREATE OR REPLACE TRIGGER correction_in_own_name BEFORE INSERT ON correction FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt a JOIN pack k ON k.id = a.pack_id JOIN member m ON m.project_id = k.project_id JOIN person p ON p.sign_in = m.person
     WHERE a.id = NEW.attempt_id AND p.sign_in = NEW.person AND p.ended_at IS NULL AND NOT p.administrator
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in or has no part in the project';
  END IF;
END;
CREATE OR REPLACE TRIGGER struck_in_own_name BEFORE INSERT ON struck FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt a JOIN pack k ON k.id = a.pack_id JOIN member m ON m.project_id = k.project_id JOIN person p ON p.sign_in = m.person
     WHERE a.id = NEW.attempt_id AND p.sign_in = NEW.person AND p.ended_at IS NULL AND NOT p.administrator
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is stored in the name of somebody who is not signed in or has no part in the project';
  END IF;
END;
CREATE OR REPLACE TRIGGER attempt_in_own_name BEFORE INSERT ON attempt FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM pack k JOIN member m ON m.project_id = k.project_id JOIN person p ON p.sign_in = m.person
     WHERE k.id = NEW.pack_id AND p.sign_in = NEW.released_by AND p.ended_at IS NULL AND NOT p.administrator
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is released in the name of somebody who is not signed in or has no part in the project';
  END IF;
END;
CREATE OR REPLACE TRIGGER signature_in_own_name BEFORE INSERT ON signature FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  SELECT COUNT(*) INTO found FROM attempt a JOIN pack k ON k.id = a.pack_id JOIN member m ON m.project_id = k.project_id JOIN person p ON p.sign_in = m.person
     WHERE a.id = NEW.attempt_id AND p.sign_in = NEW.person AND p.ended_at IS NULL AND NOT p.administrator
     AND EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP);
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is signed in the name of somebody who is not signed in or has no part in the project';
  END IF;
  IF NOT (COALESCE(JSON_VALUE(NEW.statement, '$.person'), '') = NEW.person AND COALESCE(JSON_VALUE(NEW.statement, '$.act'), '') = NEW.act) THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a signature says who signs and what as its statement does';
  END IF;
END;
