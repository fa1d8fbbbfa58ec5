-- What each run wears of the film that it is peeled off, and since when a printer has the film that is in it.
ALTER TABLE runs ADD COLUMN planned_film DOUBLE NOT NULL DEFAULT 0;

ALTER TABLE printers ADD COLUMN film_at DATETIME(3) NULL;
