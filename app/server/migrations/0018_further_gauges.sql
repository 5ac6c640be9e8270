-- A reading may be of a further gauge or thermometer of the plan: its tag; none for those that the test is read from.
ALTER TABLE reading ADD COLUMN instrument VARCHAR(64) COLLATE utf8mb4_bin NULL;
ALTER TABLE reading ADD CONSTRAINT reading_instrument FOREIGN KEY (instrument) REFERENCES instrument (tag);
