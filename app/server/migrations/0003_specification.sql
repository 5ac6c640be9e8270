-- What the project lays down for all its tests: one document, and every state that it ever had.

CREATE TABLE specification (
  id         TINYINT UNSIGNED NOT NULL PRIMARY KEY CHECK (id = 1),
  body       LONGTEXT         COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(body)),
  version    INT UNSIGNED     NOT NULL DEFAULT 1
);

CREATE TABLE specification_state (
  version    INT UNSIGNED     NOT NULL PRIMARY KEY,
  body       LONGTEXT         COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(body)),
  changed_by VARCHAR(64)      COLLATE utf8mb4_bin NOT NULL,
  changed_at TIMESTAMP(6)     NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  FOREIGN KEY (changed_by) REFERENCES person (sign_in)
);

INSERT INTO specification (id, body) VALUES (1, '{}');

CREATE TRIGGER specification_state_keeps BEFORE UPDATE ON specification_state FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a state of the specification is never changed';
CREATE TRIGGER specification_state_stays BEFORE DELETE ON specification_state FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a state of the specification is never deleted';
