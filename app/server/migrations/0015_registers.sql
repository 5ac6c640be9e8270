-- Registers: what is kept item by item. One table for all of them; what an item holds, and what it may not hold, is its register's.
CREATE TABLE register_item (
  id          CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL PRIMARY KEY,
  pack_id     CHAR(36)     CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  register    VARCHAR(16)  CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  tag         VARCHAR(64)  COLLATE utf8mb4_bin NOT NULL,
  version     INT UNSIGNED NOT NULL DEFAULT 1,
  body        LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(body)),
  -- who ticked what, and when
  marks       LONGTEXT     COLLATE utf8mb4_bin NOT NULL CHECK (JSON_VALID(marks)),
  -- 1 while it stands, nothing once it is removed: of those that stand no two are called the same
  stands      TINYINT      NULL DEFAULT 1,
  removed_by  VARCHAR(64)  COLLATE utf8mb4_bin NULL,
  removed_at  TIMESTAMP(6) NULL,
  removed_why VARCHAR(500) NULL,
  UNIQUE (pack_id, register, tag, stands),
  CHECK (stands IS NULL OR stands = 1),
  CHECK ((stands IS NULL) = (removed_by IS NOT NULL)),
  CHECK ((removed_by IS NULL) = (removed_at IS NULL) AND (removed_by IS NULL) = (removed_why IS NULL)),
  FOREIGN KEY (pack_id) REFERENCES pack (id),
  FOREIGN KEY (removed_by) REFERENCES person (sign_in)
);

INSERT INTO register_item (id, pack_id, register, tag, body, marks)
  SELECT id, pack_id, 'punch', number,
         CONCAT('{"number":', JSON_QUOTE(number), ',"category":"', CONVERT(category USING utf8mb4) COLLATE utf8mb4_bin, '","text":', JSON_QUOTE(text COLLATE utf8mb4_bin), ',"owner":', JSON_QUOTE(owner COLLATE utf8mb4_bin),
                ',"cleared":', IF(cleared_by IS NULL, 'false', 'true'), '}'),
         IF(cleared_by IS NULL, '{}', CONCAT('{"cleared":{"by":', JSON_QUOTE(cleared_by), ',"at_us":', CAST(UNIX_TIMESTAMP(cleared_at) * 1000000 AS UNSIGNED), '}}'))
    FROM punch;
INSERT INTO register_item (id, pack_id, register, tag, body, marks)
  SELECT id, pack_id, 'boundary', tag,
         CONCAT('{"tag":', JSON_QUOTE(tag), ',"kind":"', CONVERT(kind USING utf8mb4) COLLATE utf8mb4_bin, '","place":', JSON_QUOTE(place COLLATE utf8mb4_bin),
                ',"set_for_test":', IF(set_by IS NULL, 'false', 'true'), ',"put_back":', IF(back_by IS NULL, 'false', 'true'), '}'),
         CONCAT('{', IF(set_by IS NULL, '', CONCAT('"set_for_test":{"by":', JSON_QUOTE(set_by), ',"at_us":', CAST(UNIX_TIMESTAMP(set_at) * 1000000 AS UNSIGNED), '}')),
                IF(back_by IS NULL, '', CONCAT(',"put_back":{"by":', JSON_QUOTE(back_by), ',"at_us":', CAST(UNIX_TIMESTAMP(back_at) * 1000000 AS UNSIGNED), '}')), '}')
    FROM boundary_item;
DROP TABLE punch;
DROP TABLE boundary_item;

CREATE TRIGGER register_item_line_insert AFTER INSERT ON register_item FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE id = NEW.pack_id ON DUPLICATE KEY UPDATE seq = seq + 1;
CREATE TRIGGER register_item_line_update AFTER UPDATE ON register_item FOR EACH ROW
  INSERT INTO pack_due (pack_id, project_id) SELECT id, project_id FROM pack WHERE id = NEW.pack_id ON DUPLICATE KEY UPDATE seq = seq + 1;

-- Every change may say why.
ALTER TABLE history ADD COLUMN why VARCHAR(500) NULL;
