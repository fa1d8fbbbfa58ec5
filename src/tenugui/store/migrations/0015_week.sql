-- What somebody wants by a date. A plan printed so many times, or a plate; `goes` how far it goes off the plate.
CREATE TABLE orders (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  plan_id INT UNSIGNED NULL,
  plate_id INT UNSIGNED NULL,
  copies INT UNSIGNED NOT NULL DEFAULT 1,
  due DATETIME NULL,
  chance DOUBLE NOT NULL DEFAULT 0.9,
  goes ENUM('off the plate', 'clean', 'primed', 'coated') NOT NULL DEFAULT 'primed',
  made INT UNSIGNED NOT NULL DEFAULT 0,
  pins JSON NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (plan_id) REFERENCES plans (id) ON DELETE SET NULL,
  FOREIGN KEY (plate_id) REFERENCES plates (id) ON DELETE SET NULL
) ENGINE=InnoDB;

-- Documents of the workshop itself by name: people's hours, stations, quiet hours; the week that was woven last.
CREATE TABLE house (
  name VARCHAR(40) CHARACTER SET ascii PRIMARY KEY,
  body JSON NOT NULL,
  version INT UNSIGNED NOT NULL DEFAULT 1
) ENGINE=InnoDB;
