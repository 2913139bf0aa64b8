-- Takes with a note are few among all: what looks for words in notes reads those only, and nothing else of the others.
ALTER TABLE take ADD COLUMN IF NOT EXISTS is_noted BOOLEAN AS (note <> '') PERSISTENT;

ALTER TABLE take ADD KEY IF NOT EXISTS take_noted (studio_id, is_noted, id);
