-- Somebody without an account signs one record over a link that is good once; only the hash of its token is kept.
CREATE TABLE sign_link (
  token_sha256 CHAR(64)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  attempt_id   CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  act          VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL CHECK (act IN ('inspected', 'witnessed', 'accepted')),
  name         VARCHAR(120) COLLATE utf8mb4_bin NOT NULL,
  made_by      VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  made_at      TIMESTAMP(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6),
  expires_at   TIMESTAMP(6) NOT NULL DEFAULT '2000-01-01 00:00:00',
  used_at      TIMESTAMP(6) NULL,
  INDEX (attempt_id, act),
  FOREIGN KEY (attempt_id) REFERENCES attempt (id),
  FOREIGN KEY (made_by) REFERENCES person (sign_in)
);

-- Whoever has no account signs under that of whoever gave them the device, or made the link that is used up with it; never as the one who tested.
CREATE OR REPLACE TRIGGER signature_in_own_name BEFORE INSERT ON signature FOR EACH ROW
BEGIN
  DECLARE found INT DEFAULT 0;
  DECLARE way VARCHAR(8) DEFAULT COALESCE(JSON_VALUE(NEW.statement, '$.by_hand.way'), '');
  SELECT COUNT(*) INTO found FROM attempt a JOIN pack k ON k.id = a.pack_id JOIN member m ON m.project_id = k.project_id JOIN person p ON p.sign_in = m.person
     WHERE a.id = NEW.attempt_id AND p.sign_in = NEW.person AND p.ended_at IS NULL AND NOT p.administrator
     AND (EXISTS (SELECT 1 FROM session s WHERE s.person = p.sign_in AND s.expires_at > CURRENT_TIMESTAMP) AND way <> 'link'
       OR way = 'link' AND EXISTS (SELECT 1 FROM sign_link l WHERE l.attempt_id = NEW.attempt_id AND l.act = NEW.act AND l.made_by = NEW.person
          AND l.used_at IS NULL AND l.expires_at > CURRENT_TIMESTAMP(6)));
  IF found = 0 THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'nothing is signed in the name of somebody who is not signed in or has no part in the project';
  END IF;
  IF NOT (COALESCE(JSON_VALUE(NEW.statement, '$.act'), '') = NEW.act AND IF(way = '',
       COALESCE(JSON_VALUE(NEW.statement, '$.person'), '') = NEW.person,
       NEW.act <> 'performed' AND COALESCE(JSON_VALUE(NEW.statement, '$.person'), '') = JSON_VALUE(NEW.statement, '$.by_hand.name'))) THEN
    SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'a signature says who signs and what as its statement does';
  END IF;
END;
