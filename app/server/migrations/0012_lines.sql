-- The read model of lists: a line for each pack, made by a worker. Whatever a line rests on marks its pack as due in the same transaction, so that a line
-- that is not of the moment is known as such; lists never derive.

-- the sequence of all lines: who follows asks for those after a number
CREATE TABLE line_head (
  id  TINYINT UNSIGNED NOT NULL PRIMARY KEY CHECK (id = 1),
  rev BIGINT UNSIGNED  NOT NULL
);
INSERT INTO line_head (id, rev) VALUES (1, 0);

CREATE TABLE pack_line (
  pack_id    CHAR(36)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  project_id CHAR(36)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  number     VARCHAR(32)     COLLATE utf8mb4_bin NOT NULL,
  -- figures in it padded, so that 2 stands before 10
  number_key VARCHAR(120)    COLLATE utf8mb4_bin NOT NULL,
  title      VARCHAR(200)    NOT NULL,
  form       VARCHAR(8)      CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  basis      VARCHAR(200)    NOT NULL DEFAULT '',
  state_kind VARCHAR(16)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'blocked',
  state      VARCHAR(200)    NOT NULL DEFAULT '',
  -- −1 where none is planned
  planned_pa DOUBLE          NOT NULL DEFAULT -1,
  gauge_unit VARCHAR(8)      COLLATE utf8mb4_bin NOT NULL DEFAULT 'bar',
  blinds_in  INT UNSIGNED    NOT NULL DEFAULT 0,
  has_blinds BOOLEAN AS (blinds_in > 0) PERSISTENT,
  body       LONGTEXT        COLLATE utf8mb4_bin NOT NULL DEFAULT '{}' CHECK (JSON_VALID(body)),
  day        CHAR(10)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  build      CHAR(64)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  rev        BIGINT UNSIGNED NOT NULL DEFAULT 0,
  moved_at   TIMESTAMP(6)    NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  INDEX (rev),
  -- in the order of a list: of all projects, and of one
  INDEX by_number (number_key, pack_id, project_id), INDEX project_by_number (project_id, number_key, pack_id),
  INDEX by_title (title, pack_id, project_id), INDEX project_by_title (project_id, title, pack_id),
  INDEX by_planned (planned_pa, pack_id, project_id), INDEX project_by_planned (project_id, planned_pa, pack_id),
  INDEX by_moved (moved_at, pack_id, project_id), INDEX project_by_moved (project_id, moved_at, pack_id),
  INDEX by_state (state_kind, number_key, pack_id, project_id), INDEX project_by_state (project_id, state_kind, number_key, pack_id),
  INDEX (has_blinds, pack_id),
  FOREIGN KEY (pack_id) REFERENCES pack (id),
  FOREIGN KEY (project_id) REFERENCES project (id)
);

-- packs whose line is not of the moment
CREATE TABLE pack_due (
  pack_id       CHAR(36)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  project_id    CHAR(36)        CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  seq           BIGINT UNSIGNED NOT NULL DEFAULT 1,
  since         TIMESTAMP(6)    NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  claimed_until TIMESTAMP(6)    NULL,
  INDEX (since),
  INDEX (project_id),
  FOREIGN KEY (pack_id) REFERENCES pack (id)
);

-- what is owed on a pack, and by whom: a role of the project, or a person
CREATE TABLE pack_owed (
  pack_id    CHAR(36)      CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  n          INT UNSIGNED  NOT NULL,
  project_id CHAR(36)      CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  role       VARCHAR(16)   CHARACTER SET ascii COLLATE ascii_bin NULL,
  person     VARCHAR(64)   COLLATE utf8mb4_bin NULL,
  what       VARCHAR(40)   CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  step       VARCHAR(16)   CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  sentence   VARCHAR(4000) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (pack_id, n),
  INDEX (project_id, role, what, pack_id),
  INDEX (person, what, pack_id),
  INDEX (what, pack_id),
  FOREIGN KEY (pack_id) REFERENCES pack (id)
);

-- how many lines of a project are in a state, owe something, or have blinds in
CREATE TABLE line_count (
  project_id CHAR(36)    CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  of_what    VARCHAR(8)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  name       VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  n          INT         NOT NULL,
  PRIMARY KEY (project_id, of_what, name)
);

-- instruments that a pack names, whether or not they are in the store
CREATE TABLE pack_uses (
  pack_id CHAR(36)    CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  tag     VARCHAR(64) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (pack_id, tag),
  INDEX (tag),
  FOREIGN KEY (pack_id) REFERENCES pack (id)
);

-- words under which a pack is found, in small letters
CREATE TABLE pack_word (
  word    VARCHAR(40) COLLATE utf8mb4_bin NOT NULL,
  pack_id CHAR(36)    CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  PRIMARY KEY (pack_id, word),
  INDEX (word),
  FOREIGN KEY (pack_id) REFERENCES pack (id)
);

-- who made a pack or is named on it, written in the transaction that writes the plan: for those who see only what concerns them
CREATE TABLE pack_person (
  pack_id CHAR(36)    CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  person  VARCHAR(64) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (pack_id, person),
  INDEX (person),
  FOREIGN KEY (pack_id) REFERENCES pack (id)
);
INSERT IGNORE INTO pack_person (pack_id, person) SELECT id, created_by FROM pack;
INSERT IGNORE INTO pack_person (pack_id, person) SELECT id, JSON_VALUE(plan, '$.people.performs') FROM pack WHERE COALESCE(JSON_VALUE(plan, '$.people.performs'), '') <> '';
INSERT IGNORE INTO pack_person (pack_id, person) SELECT id, JSON_VALUE(plan, '$.people.inspects') FROM pack WHERE COALESCE(JSON_VALUE(plan, '$.people.inspects'), '') <> '';
INSERT IGNORE INTO pack_person (pack_id, person) SELECT id, JSON_VALUE(plan, '$.people.witnesses') FROM pack WHERE COALESCE(JSON_VALUE(plan, '$.people.witnesses'), '') <> '';
INSERT IGNORE INTO pack_person (pack_id, person) SELECT id, JSON_VALUE(plan, '$.people.accepts') FROM pack WHERE COALESCE(JSON_VALUE(plan, '$.people.accepts'), '') <> '';

-- every pack that is there gets its line
INSERT INTO pack_line (pack_id, project_id, number, number_key, title, form) SELECT id, project_id, number, number, title, form FROM pack;
INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack;

-- what a line rests on
CREATE TRIGGER pack_new_line AFTER INSERT ON pack FOR EACH ROW
BEGIN
  INSERT INTO pack_line (pack_id, project_id, number, number_key, title, form) VALUES (NEW.id, NEW.project_id, NEW.number, NEW.number, NEW.title, NEW.form);
  INSERT INTO pack_due (pack_id, project_id) VALUES (NEW.id, NEW.project_id);
  INSERT IGNORE INTO pack_person (pack_id, person) VALUES (NEW.id, NEW.created_by);
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.performs') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.performs'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.inspects') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.inspects'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.witnesses') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.witnesses'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.accepts') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.accepts'), '') <> '';
END;
CREATE TRIGGER pack_line_due AFTER UPDATE ON pack FOR EACH ROW
BEGIN
  INSERT INTO pack_due (pack_id, project_id) VALUES (NEW.id, NEW.project_id) ON DUPLICATE KEY UPDATE seq = seq + 1, project_id = NEW.project_id;
  DELETE FROM pack_person WHERE pack_id = NEW.id AND person <> NEW.created_by;
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.performs') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.performs'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.inspects') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.inspects'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.witnesses') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.witnesses'), '') <> '';
  INSERT IGNORE INTO pack_person (pack_id, person) SELECT NEW.id, JSON_VALUE(NEW.plan, '$.people.accepts') FROM DUAL WHERE COALESCE(JSON_VALUE(NEW.plan, '$.people.accepts'), '') <> '';
END;
CREATE TRIGGER punch_line_insert AFTER INSERT ON punch FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE id = NEW.pack_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER punch_line_update AFTER UPDATE ON punch FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE id = NEW.pack_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER boundary_item_line_insert AFTER INSERT ON boundary_item FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE id = NEW.pack_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER boundary_item_line_update AFTER UPDATE ON boundary_item FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE id = NEW.pack_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER attempt_line AFTER INSERT ON attempt FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE id = NEW.pack_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER event_line AFTER INSERT ON event FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM attempt a JOIN pack k ON k.id = a.pack_id WHERE a.id = NEW.attempt_id
    ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER reading_line AFTER INSERT ON reading FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM attempt a JOIN pack k ON k.id = a.pack_id WHERE a.id = NEW.attempt_id
    ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER recording_line AFTER INSERT ON recording FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM attempt a JOIN pack k ON k.id = a.pack_id WHERE a.id = NEW.attempt_id
    ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER correction_line AFTER INSERT ON correction FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM attempt a JOIN pack k ON k.id = a.pack_id WHERE a.id = NEW.attempt_id
    ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER struck_line AFTER INSERT ON struck FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM attempt a JOIN pack k ON k.id = a.pack_id WHERE a.id = NEW.attempt_id
    ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER signature_line AFTER INSERT ON signature FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM attempt a JOIN pack k ON k.id = a.pack_id WHERE a.id = NEW.attempt_id
    ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER instrument_line_insert AFTER INSERT ON instrument FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM pack_uses u JOIN pack k ON k.id = u.pack_id WHERE u.tag = NEW.tag
    ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER instrument_line_update AFTER UPDATE ON instrument FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM pack_uses u JOIN pack k ON k.id = u.pack_id WHERE u.tag = NEW.tag
    ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER loan_line_insert AFTER INSERT ON instrument_loan FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM pack_uses u JOIN pack k ON k.id = u.pack_id
    WHERE u.tag = NEW.tag AND k.project_id = NEW.project_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER loan_line_delete AFTER DELETE ON instrument_loan FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM pack_uses u JOIN pack k ON k.id = u.pack_id
    WHERE u.tag = OLD.tag AND k.project_id = OLD.project_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER specification_line AFTER UPDATE ON project_specification FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE project_id = NEW.project_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER project_line AFTER UPDATE ON project FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE project_id = NEW.id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER site_line AFTER UPDATE ON site FOR EACH ROW
BEGIN
  IF NEW.zone <> OLD.zone OR NEW.units <> OLD.units THEN
    INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack ON DUPLICATE KEY UPDATE seq = seq + 1;
  END IF;
END;
CREATE TRIGGER member_line_insert AFTER INSERT ON member FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM pack_person n JOIN pack k ON k.id = n.pack_id
    WHERE n.person = NEW.person AND k.project_id = NEW.project_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER member_line_update AFTER UPDATE ON member FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM pack_person n JOIN pack k ON k.id = n.pack_id
    WHERE n.person = NEW.person AND k.project_id = NEW.project_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER member_line_delete AFTER DELETE ON member FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM pack_person n JOIN pack k ON k.id = n.pack_id
    WHERE n.person = OLD.person AND k.project_id = OLD.project_id ON DUPLICATE KEY UPDATE seq = seq + 1;

-- until when a certificate holds, for what runs out soon
ALTER TABLE instrument ADD COLUMN valid_until CHAR(10) CHARACTER SET ascii COLLATE ascii_bin AS (JSON_VALUE(body, '$.valid_until')) PERSISTENT, ADD INDEX (valid_until);
