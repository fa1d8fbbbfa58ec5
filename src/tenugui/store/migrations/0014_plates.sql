-- A plate: what somebody wants to print together on one machine. Each change is a step; undo and redo move the head.
CREATE TABLE plates (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  printer_id INT UNSIGNED NOT NULL,
  head INT UNSIGNED NOT NULL DEFAULT 0,
  version INT UNSIGNED NOT NULL DEFAULT 1,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (printer_id) REFERENCES printers (id)
) ENGINE=InnoDB;

CREATE TABLE plate_steps (
  plate_id INT UNSIGNED NOT NULL,
  step INT UNSIGNED NOT NULL,
  did VARCHAR(120) NOT NULL,
  body JSON NOT NULL,
  PRIMARY KEY (plate_id, step),
  FOREIGN KEY (plate_id) REFERENCES plates (id) ON DELETE CASCADE
) ENGINE=InnoDB;

-- A plate that was begun: its pieces are runs of their own, each with its own outcome; the hours are the plate's.
CREATE TABLE batches (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  plate_id INT UNSIGNED NULL,
  plate_name VARCHAR(120) NOT NULL,
  number INT UNSIGNED NOT NULL,
  planned_s DOUBLE NOT NULL,
  started_at DATETIME(3) NOT NULL,
  INDEX (plate_id),
  FOREIGN KEY (plate_id) REFERENCES plates (id) ON DELETE SET NULL
) ENGINE=InnoDB;
ALTER TABLE runs
  ADD COLUMN batch_id INT UNSIGNED NULL,
  ADD INDEX (batch_id),
  ADD CONSTRAINT runs_of_a_batch FOREIGN KEY (batch_id) REFERENCES batches (id) ON DELETE SET NULL;
