-- Work that takes longer than a request may: who has it, until when, how far it is and how it ended. ``attempt`` grows
-- with every claim, so that one whose lease ran out cannot finish what another has taken over; ``tries`` counts the
-- claims since it last got further.
CREATE TABLE IF NOT EXISTS job (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  kind VARCHAR(30) NOT NULL,
  job_key VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  asked MEDIUMTEXT NOT NULL CHECK (JSON_VALID(asked)),
  state VARCHAR(10) NOT NULL DEFAULT 'waiting',
  attempt INT UNSIGNED NOT NULL DEFAULT 0,
  tries INT UNSIGNED NOT NULL DEFAULT 0,
  claimed_by VARCHAR(80) NULL,
  due_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  lease_until DATETIME(6) NULL,
  progress INT UNSIGNED NOT NULL DEFAULT 0,
  whole INT UNSIGNED NOT NULL DEFAULT 0,
  result MEDIUMTEXT NULL CHECK (result IS NULL OR JSON_VALID(result)),
  error VARCHAR(2000) NULL,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  finished_at DATETIME(6) NULL,
  UNIQUE KEY job_of_key (studio_id, job_key),
  KEY job_due (state, due_at, id),
  KEY job_leased (state, lease_until),
  KEY job_finished (finished_at),
  CONSTRAINT job_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- What was made of pieces: sheets, engraved pages, sound. Its key is a hash of everything it was made of, so what is
-- here is never out of date; what was not used for longest goes when there is too much.
CREATE TABLE IF NOT EXISTS made (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  made_key CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  media_type VARCHAR(80) NOT NULL,
  body LONGBLOB NOT NULL,
  size INT UNSIGNED NOT NULL,
  used_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(),
  UNIQUE KEY made_of_key (studio_id, made_key),
  KEY made_used (studio_id, used_at, size),
  CONSTRAINT made_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
