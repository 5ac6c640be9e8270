-- Water that was measured, and what a person corrects in the reading of a record: defects let stand, boundaries moved. Only ever added to.

ALTER TABLE event ADD COLUMN volume_m3 DOUBLE NULL;

CREATE TABLE correction (
  id         CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  attempt_id CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  body       LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(body)),
  person     VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  at         TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id),
  FOREIGN KEY (person) REFERENCES person (sign_in)
);

CREATE TRIGGER correction_keeps BEFORE UPDATE ON correction FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a correction is never changed';
CREATE TRIGGER correction_stays BEFORE DELETE ON correction FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a correction is never deleted';
