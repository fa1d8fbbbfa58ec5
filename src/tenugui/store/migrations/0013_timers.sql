-- Timers of steps off the plate: they run on, whoever looks and whatever is started again.
CREATE TABLE timers (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  plan_id INT UNSIGNED NOT NULL,
  step VARCHAR(60) NOT NULL,
  started_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  ends_at DATETIME(3) NOT NULL,
  INDEX (ends_at),
  UNIQUE (plan_id, step),
  FOREIGN KEY (plan_id) REFERENCES plans (id) ON DELETE CASCADE
) ENGINE=InnoDB;
