-- A student as the teacher knows it. ``level``: of the playing, NULL: as each piece says; ``span``: how far a hand
-- reaches, as an interval (8: an octave); ``days_a_week`` and ``minutes_a_day`` as agreed; ``version`` counts changes.
ALTER TABLE student
  ADD COLUMN IF NOT EXISTS level VARCHAR(20) NULL,
  ADD COLUMN IF NOT EXISTS span TINYINT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS school MEDIUMTEXT NOT NULL DEFAULT '{}' CHECK (JSON_VALID(school)),
  ADD COLUMN IF NOT EXISTS days_a_week TINYINT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS minutes_a_day SMALLINT UNSIGNED NULL,
  ADD COLUMN IF NOT EXISTS note TEXT NOT NULL DEFAULT '',
  ADD COLUMN IF NOT EXISTS is_paused BOOLEAN NOT NULL DEFAULT FALSE,
  ADD COLUMN IF NOT EXISTS version INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN IF NOT EXISTS deleted_at DATETIME(6) NULL;

ALTER TABLE student ADD KEY IF NOT EXISTS student_by_name (studio_id, deleted_at, name, id);

-- A study is given; looking at a ladder gives nothing. ``progress``: what it has come to, worked out of ``progress_of``.
ALTER TABLE study
  ADD COLUMN IF NOT EXISTS given_at DATETIME(6) NULL,
  ADD COLUMN IF NOT EXISTS ended_at DATETIME(6) NULL,
  ADD COLUMN IF NOT EXISTS progress MEDIUMTEXT NULL CHECK (progress IS NULL OR JSON_VALID(progress)),
  ADD COLUMN IF NOT EXISTS progress_of VARCHAR(200) NULL;

-- What was tried was given.
UPDATE study SET given_at = UTC_TIMESTAMP(6) WHERE given_at IS NULL
  AND EXISTS (SELECT 1 FROM rung_event WHERE rung_event.studio_id = study.studio_id AND rung_event.study_id = study.id);

ALTER TABLE study ADD KEY IF NOT EXISTS study_given (studio_id, student_id, given_at);

ALTER TABLE take ADD KEY IF NOT EXISTS take_practised (studio_id, study_id, deleted_at, created_at);

-- Days are those of the place where the studio is: a name of the time zone database, empty: of this machine.
ALTER TABLE studio ADD COLUMN IF NOT EXISTS time_zone VARCHAR(64) NOT NULL DEFAULT '';

-- Of the demo, by name: made once.
ALTER TABLE student ADD COLUMN IF NOT EXISTS demo_key VARCHAR(40) NULL,
  ADD UNIQUE KEY IF NOT EXISTS student_of_demo (studio_id, demo_key);
