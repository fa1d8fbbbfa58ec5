-- Chunks are deflated before they are stored; those from before are not.
ALTER TABLE blob_chunks ADD COLUMN packed TINYINT NOT NULL DEFAULT 0;
