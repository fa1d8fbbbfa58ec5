-- From which side a photo was taken, so that photos of two runs can stand beside each other.
ALTER TABLE photos
  ADD COLUMN side ENUM('front', 'left', 'back', 'right', 'top', 'under', 'not said') NOT NULL DEFAULT 'not said';
