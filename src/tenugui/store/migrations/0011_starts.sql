-- A job is given up for the workers that it ended, which only their crew sees; `starts` counts how often it was begun at all.
ALTER TABLE jobs ADD COLUMN starts INT UNSIGNED NOT NULL DEFAULT 0;
UPDATE jobs SET attempts = 0 WHERE state IN ('waiting', 'running');

-- Names of before could hold line breaks, which files would obey.
UPDATE printers SET spec = JSON_SET(spec, '$.name', TRIM(REGEXP_REPLACE(name, '[[:cntrl:]]+', ' '))), name = TRIM(REGEXP_REPLACE(name, '[[:cntrl:]]+', ' '))
  WHERE name REGEXP '[[:cntrl:]]';
UPDATE materials SET spec = JSON_SET(spec, '$.name', TRIM(REGEXP_REPLACE(name, '[[:cntrl:]]+', ' '))), name = TRIM(REGEXP_REPLACE(name, '[[:cntrl:]]+', ' '))
  WHERE name REGEXP '[[:cntrl:]]';
