-- Bottles, spools and boxes on the shelf by lot, and what was counted of or taken from them by hand.
CREATE TABLE lots (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind ENUM('material', 'fluid', 'filters', 'gloves', 'film') NOT NULL,
  material_id INT UNSIGNED NULL,
  name VARCHAR(80) NOT NULL,
  amount DOUBLE NOT NULL,
  opened_at DATETIME(3) NOT NULL,
  KEY (material_id),
  FOREIGN KEY (material_id) REFERENCES materials (id)
) ENGINE=InnoDB;

CREATE TABLE lot_steps (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  lot_id INT UNSIGNED NOT NULL,
  did ENUM('counted', 'used', 'wasted') NOT NULL,
  amount DOUBLE NOT NULL,
  note VARCHAR(200) NOT NULL DEFAULT '',
  at DATETIME(3) NOT NULL,
  KEY (lot_id, at),
  FOREIGN KEY (lot_id) REFERENCES lots (id) ON DELETE CASCADE
) ENGINE=InnoDB;
