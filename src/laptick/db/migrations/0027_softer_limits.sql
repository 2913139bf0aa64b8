-- ``softer_percent``: how much wider than at the student's level limits are; ``things_a_day``: the pace, how many things
-- a day's practice holds at most, NULL: as many as usual.
ALTER TABLE student
  ADD COLUMN IF NOT EXISTS softer_percent SMALLINT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS things_a_day TINYINT UNSIGNED NULL;
