-- What a plan sets otherwise than the shelf, by table and field, from its beginning.
ALTER TABLE plans ADD COLUMN own JSON NULL;
