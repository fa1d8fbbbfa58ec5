-- A run keeps everything that was set when it was started, what its proof told, and what somebody noted of the day.
ALTER TABLE runs
  ADD COLUMN frozen MEDIUMTEXT NULL,
  ADD COLUMN told MEDIUMTEXT NULL,
  ADD INDEX (printer_id, started_at),
  ADD INDEX (started_at);
ALTER TABLE outcomes ADD COLUMN cause VARCHAR(24) CHARACTER SET ascii NULL;

-- What was seen on a print, and where: at a layer, at a place of the figure at its size, in mm.
CREATE TABLE seen (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  run_id INT UNSIGNED NOT NULL,
  cue VARCHAR(24) CHARACTER SET ascii NOT NULL,
  layer INT UNSIGNED NULL,
  x_mm DOUBLE NULL,
  y_mm DOUBLE NULL,
  z_mm DOUBLE NULL,
  note VARCHAR(500) NOT NULL DEFAULT '',
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  INDEX (run_id),
  FOREIGN KEY (run_id) REFERENCES runs (id) ON DELETE CASCADE
) ENGINE=InnoDB;

CREATE TABLE photos (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  run_id INT UNSIGNED NOT NULL,
  stage ENUM('bare', 'primed', 'painted') NOT NULL DEFAULT 'bare',
  sha256 CHAR(64) CHARACTER SET ascii NOT NULL,
  small_sha CHAR(64) CHARACTER SET ascii NOT NULL,
  width INT UNSIGNED NOT NULL,
  height INT UNSIGNED NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  UNIQUE (run_id, sha256),
  INDEX (sha256),
  INDEX (small_sha),
  FOREIGN KEY (run_id) REFERENCES runs (id) ON DELETE CASCADE
) ENGINE=InnoDB;

CREATE TABLE series (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  figure_id INT UNSIGNED NULL,
  spec JSON NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (figure_id) REFERENCES figures (id) ON DELETE SET NULL
) ENGINE=InnoDB;

-- One print of a series: its levels by factor, and what was found of it by response; `version` tells two people apart
-- who grade it at once.
CREATE TABLE specimens (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  series_id INT UNSIGNED NOT NULL,
  name VARCHAR(60) NOT NULL,
  levels JSON NOT NULL,
  found JSON NOT NULL,
  run_id INT UNSIGNED NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  UNIQUE (series_id, name),
  FOREIGN KEY (series_id) REFERENCES series (id) ON DELETE CASCADE,
  FOREIGN KEY (run_id) REFERENCES runs (id) ON DELETE SET NULL
) ENGINE=InnoDB;

-- What was seen of what a machine can do: made at a level, it came out or did not; or a person's word.
CREATE TABLE evidence (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  printer_id INT UNSIGNED NOT NULL,
  material_id INT UNSIGNED NOT NULL,
  ability VARCHAR(16) CHARACTER SET ascii NOT NULL,
  level DOUBLE NOT NULL,
  came_out BOOLEAN NOT NULL,
  source ENUM('run', 'series', 'word') NOT NULL,
  run_id INT UNSIGNED NULL,
  note VARCHAR(200) NOT NULL DEFAULT '',
  noted_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  INDEX (printer_id, material_id, ability),
  FOREIGN KEY (printer_id) REFERENCES printers (id),
  FOREIGN KEY (material_id) REFERENCES materials (id),
  FOREIGN KEY (run_id) REFERENCES runs (id) ON DELETE SET NULL
) ENGINE=InnoDB;

-- A learned value that was taken over onto the shelf, and what stood there before: so that it can be undone.
CREATE TABLE taken (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  shelf ENUM('printers', 'materials') NOT NULL,
  on_shelf_id INT UNSIGNED NOT NULL,
  field VARCHAR(40) CHARACTER SET ascii NOT NULL,
  before_it JSON NOT NULL,
  since_then JSON NOT NULL,
  why VARCHAR(200) NOT NULL,
  taken_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  undone_at DATETIME(3) NULL,
  INDEX (shelf, on_shelf_id)
) ENGINE=InnoDB;
