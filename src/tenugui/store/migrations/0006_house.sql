-- One job for one computation at a time; results that name what they hold and when they were used; figures that can be deleted for good.
UPDATE jobs SET cancel_wanted = 1, state = 'cancelled' WHERE state IN ('waiting', 'running');

ALTER TABLE jobs
  MODIFY kind VARCHAR(24) NOT NULL,
  ADD COLUMN title VARCHAR(200) NOT NULL DEFAULT '',
  ADD COLUMN figure_id INT UNSIGNED NULL,
  ADD COLUMN started_at DATETIME(3) NULL,
  ADD COLUMN active_key CHAR(64) CHARACTER SET ascii NULL,
  ADD UNIQUE KEY one_at_a_time (active_key),
  ADD INDEX (figure_id);

-- Results of before are of other shapes; they are computed again when they are asked for.
DELETE FROM results;

ALTER TABLE results
  MODIFY kind VARCHAR(24) NOT NULL,
  ADD COLUMN mesh_sha CHAR(64) CHARACTER SET ascii NULL,
  ADD COLUMN used_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
  ADD INDEX (mesh_sha),
  ADD INDEX (used_at);

CREATE TABLE result_blobs (
  result_key CHAR(64) CHARACTER SET ascii NOT NULL,
  sha256 CHAR(64) CHARACTER SET ascii NOT NULL,
  PRIMARY KEY (result_key, sha256),
  INDEX (sha256),
  FOREIGN KEY (result_key) REFERENCES results (result_key) ON DELETE CASCADE
) ENGINE=InnoDB;

ALTER TABLE figures
  ADD COLUMN picture_sha CHAR(64) CHARACTER SET ascii NULL,
  ADD COLUMN ready_sha CHAR(64) CHARACTER SET ascii NULL,
  ADD COLUMN problem LONGTEXT CHARACTER SET utf8mb4 NULL;

-- A print that was made stays in the log when its figure is deleted.
ALTER TABLE runs
  DROP FOREIGN KEY runs_ibfk_1,
  MODIFY plan_id INT UNSIGNED NULL,
  ADD COLUMN figure_name VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN plan_number INT UNSIGNED NOT NULL DEFAULT 0;

UPDATE runs r JOIN plans p ON p.id = r.plan_id JOIN figures f ON f.id = p.figure_id SET r.figure_name = f.name, r.plan_number = p.number;

ALTER TABLE runs ADD CONSTRAINT runs_of_plan FOREIGN KEY (plan_id) REFERENCES plans (id) ON DELETE SET NULL;

-- What is no longer used is retired, since the log still names it.
ALTER TABLE printers ADD COLUMN retired_at DATETIME(3) NULL;
ALTER TABLE materials ADD COLUMN retired_at DATETIME(3) NULL;
