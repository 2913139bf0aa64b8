-- A drill is a piece that was made: what it was made by, so that it can be made again; NULL for every other piece.
ALTER TABLE piece ADD COLUMN IF NOT EXISTS drill MEDIUMTEXT NULL CHECK (JSON_VALID(drill));
