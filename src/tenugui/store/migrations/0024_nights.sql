-- Many figures planned on some machines while nobody looks on: which ones, on what, and what is too risky or too long.
CREATE TABLE nights (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  asked JSON NOT NULL,
  figures JSON NOT NULL,
  begun_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
) ENGINE=InnoDB;
