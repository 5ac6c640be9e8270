-- A sealed file is kept as it was made at each signature, so that a key that is replaced later cannot change it. Keys that sealed stay known.

CREATE TABLE sealed_file (
  attempt_id CHAR(36)         CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  signatures TINYINT UNSIGNED NOT NULL CHECK (signatures > 0),
  file       LONGBLOB         NOT NULL,
  made_at    TIMESTAMP(6)     NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  PRIMARY KEY (attempt_id, signatures),
  FOREIGN KEY (attempt_id) REFERENCES content (attempt_id)
);
CREATE TRIGGER sealed_file_keeps BEFORE UPDATE ON sealed_file FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a sealed file is never changed';
CREATE TRIGGER sealed_file_stays BEFORE DELETE ON sealed_file FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a sealed file is never deleted';

CREATE TABLE sealing_key (
  public_key CHAR(64)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  first_used TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6)
);
CREATE TRIGGER sealing_key_keeps BEFORE UPDATE ON sealing_key FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a key that sealed is never changed';
CREATE TRIGGER sealing_key_stays BEFORE DELETE ON sealing_key FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a key that sealed is never forgotten';
