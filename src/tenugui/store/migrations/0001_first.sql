CREATE TABLE blobs (
  sha256 CHAR(64) CHARACTER SET ascii PRIMARY KEY,
  size BIGINT UNSIGNED NOT NULL,
  chunks INT UNSIGNED NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
) ENGINE=InnoDB;

CREATE TABLE blob_chunks (
  sha256 CHAR(64) CHARACTER SET ascii NOT NULL,
  n INT UNSIGNED NOT NULL,
  data MEDIUMBLOB NOT NULL,
  PRIMARY KEY (sha256, n),
  FOREIGN KEY (sha256) REFERENCES blobs (sha256) ON DELETE CASCADE
) ENGINE=InnoDB;

CREATE TABLE printers (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL UNIQUE,
  process ENUM('resin', 'filament') NOT NULL,
  spec JSON NOT NULL
) ENGINE=InnoDB;

CREATE TABLE materials (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL UNIQUE,
  process ENUM('resin', 'filament') NOT NULL,
  spec JSON NOT NULL,
  stock_g DOUBLE NULL
) ENGINE=InnoDB;

CREATE TABLE figures (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  file_name VARCHAR(255) NOT NULL,
  source_sha CHAR(64) CHARACTER SET ascii NOT NULL,
  triangles INT UNSIGNED NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  put_away_at DATETIME(3) NULL,
  FOREIGN KEY (source_sha) REFERENCES blobs (sha256)
) ENGINE=InnoDB;

CREATE TABLE plans (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  figure_id INT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  head_id BIGINT UNSIGNED NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  UNIQUE (figure_id, number),
  FOREIGN KEY (figure_id) REFERENCES figures (id)
) ENGINE=InnoDB;

-- Append-only. A plan is the chain from its head through parent_id; undo and redo move the head, nothing is ever rewritten.
CREATE TABLE decisions (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  plan_id INT UNSIGNED NOT NULL,
  parent_id BIGINT UNSIGNED NULL,
  fold VARCHAR(16) NOT NULL,
  choice JSON NOT NULL,
  evidence JSON NOT NULL,
  reason VARCHAR(1000) NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (plan_id) REFERENCES plans (id),
  FOREIGN KEY (parent_id) REFERENCES decisions (id)
) ENGINE=InnoDB;

-- Derived, by the hash of what it was computed from; may be thrown away at any time.
CREATE TABLE results (
  result_key CHAR(64) CHARACTER SET ascii PRIMARY KEY,
  kind VARCHAR(16) NOT NULL,
  document LONGBLOB NOT NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)
) ENGINE=InnoDB;

CREATE TABLE jobs (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(16) NOT NULL,
  input JSON NOT NULL,
  result_key CHAR(64) CHARACTER SET ascii NOT NULL,
  state ENUM('waiting', 'running', 'done', 'failed', 'cancelled') NOT NULL DEFAULT 'waiting',
  share DOUBLE NOT NULL DEFAULT 0,
  doing VARCHAR(200) NOT NULL DEFAULT '',
  problem JSON NULL,
  attempts INT UNSIGNED NOT NULL DEFAULT 0,
  cancel_wanted TINYINT NOT NULL DEFAULT 0,
  worker VARCHAR(64) NULL,
  heartbeat_at DATETIME(3) NULL,
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  ended_at DATETIME(3) NULL,
  INDEX (state, id),
  INDEX (result_key, state)
) ENGINE=InnoDB;

CREATE TABLE runs (
  id INT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  plan_id INT UNSIGNED NOT NULL,
  decision_id BIGINT UNSIGNED NULL,
  printer_id INT UNSIGNED NOT NULL,
  material_id INT UNSIGNED NOT NULL,
  planned_s DOUBLE NOT NULL,
  planned_g DOUBLE NOT NULL,
  planned_risk DOUBLE NOT NULL,
  started_at DATETIME(3) NOT NULL,
  FOREIGN KEY (plan_id) REFERENCES plans (id),
  FOREIGN KEY (printer_id) REFERENCES printers (id),
  FOREIGN KEY (material_id) REFERENCES materials (id)
) ENGINE=InnoDB;

CREATE TABLE outcomes (
  run_id INT UNSIGNED PRIMARY KEY,
  result ENUM('good', 'scarred', 'part lost', 'print lost') NOT NULL,
  real_s DOUBLE NULL,
  real_g DOUBLE NULL,
  failed_layer INT UNSIGNED NULL,
  removal TINYINT UNSIGNED NULL,
  note VARCHAR(2000) NOT NULL DEFAULT '',
  created_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  FOREIGN KEY (run_id) REFERENCES runs (id)
) ENGINE=InnoDB;
