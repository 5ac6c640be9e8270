-- What can be changed keeps who changed it, when, from what to what; an instrument is changed by its keeper alone.

CREATE TABLE history (
  id      CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  kind    VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  subject VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  item    VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  before_ LONGTEXT     COLLATE utf8mb4_bin NULL CHECK (before_ IS NULL OR JSON_VALID(before_)),
  after_  LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(after_)),
  person  VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  at      TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  INDEX (kind, subject, at),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);
CREATE TRIGGER history_keeps BEFORE UPDATE ON history FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'history is never changed';
CREATE TRIGGER history_stays BEFORE DELETE ON history FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'history is never deleted';

ALTER TABLE instrument ADD COLUMN keeper VARCHAR(64) COLLATE utf8mb4_bin NULL, ADD FOREIGN KEY (keeper) REFERENCES person (sign_in);
