-- A kit that was cut out of a figure: the plan it was cut from, and its joints; how many of a part are wanted, and what
-- was done with it by hand.
ALTER TABLE kits
  ADD COLUMN cut_of INT UNSIGNED NULL,
  ADD COLUMN joints JSON NULL,
  ADD FOREIGN KEY (cut_of) REFERENCES plans (id) ON DELETE SET NULL;
ALTER TABLE figures
  ADD COLUMN wanted SMALLINT UNSIGNED NOT NULL DEFAULT 1,
  ADD COLUMN by_hand ENUM('nothing', 'dry-fitted', 'painted') NOT NULL DEFAULT 'nothing';
