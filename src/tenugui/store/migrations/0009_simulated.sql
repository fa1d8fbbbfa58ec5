-- Runs on a simulated machine: they teach nothing, and use no material and no film.
ALTER TABLE runs ADD COLUMN simulated BOOLEAN NOT NULL DEFAULT FALSE;
