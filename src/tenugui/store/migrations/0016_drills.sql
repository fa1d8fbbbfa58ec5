-- Drills, their keys, their pictures and what was answered. A set that came from elsewhere has no plan; `code` tells one
-- drill from another wherever it came from.
CREATE TABLE drills (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  plan_id INT UNSIGNED NULL,
  code CHAR(64) CHARACTER SET ascii NOT NULL UNIQUE,
  kind VARCHAR(40) CHARACTER SET ascii NOT NULL,
  question JSON NOT NULL,
  answer_key JSON NOT NULL,
  hard DOUBLE NOT NULL,
  source VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY (plan_id),
  FOREIGN KEY (plan_id) REFERENCES plans (id) ON DELETE SET NULL
) ENGINE=InnoDB;

CREATE TABLE drill_pictures (
  drill_id INT UNSIGNED NOT NULL,
  nth TINYINT UNSIGNED NOT NULL,
  png MEDIUMBLOB NOT NULL,
  PRIMARY KEY (drill_id, nth),
  FOREIGN KEY (drill_id) REFERENCES drills (id) ON DELETE CASCADE
) ENGINE=InnoDB;

CREATE TABLE drill_answers (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  drill_id INT UNSIGNED NOT NULL,
  answer JSON NOT NULL,
  score DOUBLE NOT NULL,
  answered_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  KEY (drill_id, id),
  FOREIGN KEY (drill_id) REFERENCES drills (id) ON DELETE CASCADE
) ENGINE=InnoDB;
