-- What a run's plan said of machines whose prints differ more and less, for the log to weigh.
ALTER TABLE runs ADD COLUMN by_scatter VARCHAR(400) CHARACTER SET ascii NULL;
