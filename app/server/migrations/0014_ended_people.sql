-- An account that ends stops the packs on which its person is named: their lines are made anew.
CREATE TRIGGER person_ended_line AFTER UPDATE ON person FOR EACH ROW
  IF (NEW.ended_at IS NULL) <> (OLD.ended_at IS NULL) THEN
    INSERT INTO pack_due (pack_id, project_id) SELECT k.id, k.project_id FROM pack_person n JOIN pack k ON k.id = n.pack_id
      WHERE n.person = NEW.sign_in ON DUPLICATE KEY UPDATE seq = seq + 1;
  END IF;
