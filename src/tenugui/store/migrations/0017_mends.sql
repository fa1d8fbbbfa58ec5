-- What was done about a print that failed: mended in some way, or printed again.
CREATE TABLE mends (
  run_id INT UNSIGNED PRIMARY KEY,
  way VARCHAR(20) CHARACTER SET ascii NOT NULL,
  chosen_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (run_id) REFERENCES runs (id) ON DELETE CASCADE
) ENGINE=InnoDB;
