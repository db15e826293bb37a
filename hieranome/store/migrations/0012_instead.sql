-- A bucket the owner switched off, and where its mail goes instead.
ALTER TABLE places ADD COLUMN instead TEXT NOT NULL DEFAULT '';
