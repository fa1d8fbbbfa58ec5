-- How much may come in is the user's to say; a kit may be a folder of files; a figure may be a thinner copy of what came in.
CREATE TABLE settings (
  name VARCHAR(40) CHARACTER SET ascii PRIMARY KEY,
  value BIGINT UNSIGNED NOT NULL
) ENGINE=InnoDB;

ALTER TABLE kits MODIFY source_sha CHAR(64) CHARACTER SET ascii NULL;

ALTER TABLE figures ADD COLUMN thinned LONGTEXT CHARACTER SET ascii NULL;
