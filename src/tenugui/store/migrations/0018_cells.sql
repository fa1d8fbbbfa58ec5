-- A specimen's plan, where the engine made one of its cell.
ALTER TABLE specimens
  ADD COLUMN plan_id INT UNSIGNED NULL,
  ADD FOREIGN KEY (plan_id) REFERENCES plans (id) ON DELETE SET NULL;
