-- Steps by hand that were timed: minutes that the engine reckons for them, whoever's hands, and those that they took.
CREATE TABLE minutes (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  plan_id INT UNSIGNED NULL,
  printer_id INT UNSIGNED NOT NULL,
  step VARCHAR(60) NOT NULL,
  reckoned DOUBLE NOT NULL,
  took DOUBLE NOT NULL,
  noted_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY (printer_id, id),
  FOREIGN KEY (plan_id) REFERENCES plans (id) ON DELETE SET NULL,
  FOREIGN KEY (printer_id) REFERENCES printers (id)
) ENGINE=InnoDB;
