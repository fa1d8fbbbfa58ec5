-- Parts that belong together. A part's mesh is kept beside the file it came in; a figure alone is its own file.
CREATE TABLE kits (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  source_sha CHAR(64) CHARACTER SET ascii NOT NULL,
  placed TINYINT NOT NULL DEFAULT 0,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (source_sha) REFERENCES blobs (sha256)
) ENGINE=InnoDB;

ALTER TABLE figures
  ADD COLUMN kit_id INT UNSIGNED NULL,
  ADD COLUMN mesh_sha CHAR(64) CHARACTER SET ascii NULL,
  ADD COLUMN unit VARCHAR(4) NULL,
  ADD FOREIGN KEY (kit_id) REFERENCES kits (id);

UPDATE figures SET mesh_sha = source_sha;
