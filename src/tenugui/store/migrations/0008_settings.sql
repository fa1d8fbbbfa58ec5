-- What a figure that came from a plan's own file says of how it was printed: its supports, and from which frame.
ALTER TABLE figures ADD COLUMN settings_sha CHAR(64) CHARACTER SET ascii NULL;
