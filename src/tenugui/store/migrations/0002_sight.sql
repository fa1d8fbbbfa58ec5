-- The coarse preview that is made while a figure comes in, so that it turns before it has been examined.
ALTER TABLE figures ADD COLUMN sight_sha CHAR(64) CHARACTER SET ascii NULL;
