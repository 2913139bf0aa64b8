-- A study is one student's work on one piece, or on a passage of it ('' is all of it): its choices of school, the
-- teacher's edits of its ladder, what was tried at its rungs and what that comes to. Every studio has one built-in
-- student, so that whatever comes with students moves nothing.
CREATE TABLE IF NOT EXISTS student (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  is_built_in BOOLEAN NOT NULL DEFAULT FALSE,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  UNIQUE KEY student_in_studio (studio_id, id),
  CONSTRAINT student_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

INSERT INTO student (studio_id, name, is_built_in) SELECT id, 'The student', TRUE FROM studio
  WHERE NOT EXISTS (SELECT 1 FROM student WHERE student.studio_id = studio.id AND is_built_in);

CREATE TABLE IF NOT EXISTS study (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  student_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NOT NULL,
  measures VARCHAR(40) NOT NULL DEFAULT '',
  school MEDIUMTEXT NOT NULL DEFAULT '{}' CHECK (JSON_VALID(school)),
  edits MEDIUMTEXT NOT NULL DEFAULT '[]' CHECK (JSON_VALID(edits)),
  edits_version INT UNSIGNED NOT NULL DEFAULT 0,
  takes_told BOOLEAN NOT NULL DEFAULT TRUE,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  UNIQUE KEY study_of_student (studio_id, student_id, piece_id, measures),
  UNIQUE KEY study_in_studio (studio_id, id),
  UNIQUE KEY study_of_piece (studio_id, piece_id, id),
  CONSTRAINT study_student_in_studio FOREIGN KEY (studio_id, student_id) REFERENCES student (studio_id, id),
  CONSTRAINT study_piece_in_studio FOREIGN KEY (studio_id, piece_id) REFERENCES piece (studio_id, id) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- Takes that were made before there were studies have not been told to their ladder yet: that is done when it is first
-- looked at, for only the program knows a rung's key.
INSERT IGNORE INTO study (studio_id, student_id, piece_id, takes_told)
  SELECT piece.studio_id, student.id, piece.id, FALSE FROM piece JOIN student
  ON student.studio_id = piece.studio_id AND student.is_built_in;

-- What is done in a take is its activity; a rung is a place on the ladder.
ALTER TABLE take CHANGE COLUMN IF EXISTS rung activity VARCHAR(20) NOT NULL;

ALTER TABLE take ADD COLUMN IF NOT EXISTS study_id BIGINT UNSIGNED NULL;

ALTER TABLE listening ADD COLUMN IF NOT EXISTS study_id BIGINT UNSIGNED NULL;

UPDATE take JOIN study ON study.studio_id = take.studio_id AND study.piece_id = take.piece_id AND study.measures = ''
  SET take.study_id = study.id WHERE take.study_id IS NULL;

UPDATE listening JOIN study ON study.studio_id = listening.studio_id AND study.piece_id = listening.piece_id
  AND study.measures = '' SET listening.study_id = study.id WHERE listening.study_id IS NULL;

ALTER TABLE take MODIFY COLUMN study_id BIGINT UNSIGNED NOT NULL;

ALTER TABLE listening MODIFY COLUMN study_id BIGINT UNSIGNED NOT NULL;

-- A take's study is of the take's piece.
ALTER TABLE take ADD CONSTRAINT take_study_of_piece FOREIGN KEY IF NOT EXISTS take_of_study
  (studio_id, piece_id, study_id) REFERENCES study (studio_id, piece_id, id) ON DELETE CASCADE;

ALTER TABLE listening ADD CONSTRAINT listening_study_of_piece FOREIGN KEY IF NOT EXISTS listening_of_study
  (studio_id, piece_id, study_id) REFERENCES study (studio_id, piece_id, id) ON DELETE CASCADE;

UPDATE take SET settings = JSON_REMOVE(JSON_SET(settings, '$.activity', JSON_VALUE(settings, '$.rung')), '$.rung')
  WHERE JSON_EXISTS(settings, '$.rung') AND NOT JSON_EXISTS(settings, '$.activity');

UPDATE listening SET settings = JSON_REMOVE(JSON_SET(settings, '$.activity', JSON_VALUE(settings, '$.rung')), '$.rung')
  WHERE JSON_EXISTS(settings, '$.rung') AND NOT JSON_EXISTS(settings, '$.activity');

-- What happened at a rung: only ever added to.
CREATE TABLE IF NOT EXISTS rung_event (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  study_id BIGINT UNSIGNED NOT NULL,
  rung VARCHAR(120) NOT NULL,
  kind VARCHAR(20) NOT NULL,
  day INT UNSIGNED NOT NULL,
  said_by VARCHAR(200) NOT NULL,
  take_id BIGINT UNSIGNED NULL,
  outcome VARCHAR(20) NULL,
  bpm DOUBLE NULL,
  at_target BOOLEAN NOT NULL DEFAULT FALSE,
  feel VARCHAR(20) NULL,
  why VARCHAR(1000) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  KEY rung_event_of_rung (studio_id, study_id, rung, id),
  KEY rung_event_of_take (studio_id, take_id),
  CONSTRAINT rung_event_study_in_studio FOREIGN KEY (studio_id, study_id) REFERENCES study (studio_id, id)
    ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- What that comes to: the fold of a rung's events, written together with them.
CREATE TABLE IF NOT EXISTS rung_state (
  studio_id BIGINT UNSIGNED NOT NULL,
  study_id BIGINT UNSIGNED NOT NULL,
  rung VARCHAR(120) NOT NULL,
  gate VARCHAR(20) NOT NULL,
  passed_day INT UNSIGNED NULL,
  passed_by VARCHAR(200) NOT NULL DEFAULT '',
  state MEDIUMTEXT NOT NULL CHECK (JSON_VALID(state)),
  PRIMARY KEY (studio_id, study_id, rung),
  CONSTRAINT rung_state_study_in_studio FOREIGN KEY (studio_id, study_id) REFERENCES study (studio_id, id)
    ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- How the studio teaches, at every level ('') or at one.
CREATE TABLE IF NOT EXISTS school_choice (
  studio_id BIGINT UNSIGNED NOT NULL,
  level VARCHAR(20) NOT NULL DEFAULT '',
  answers MEDIUMTEXT NOT NULL CHECK (JSON_VALID(answers)),
  PRIMARY KEY (studio_id, level),
  CONSTRAINT school_choice_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
