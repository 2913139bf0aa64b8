-- How many days sound is kept, though somebody agreed to it; NULL: until it is deleted.
ALTER TABLE studio ADD COLUMN IF NOT EXISTS sound_days SMALLINT UNSIGNED NULL;
