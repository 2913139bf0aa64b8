-- That recordings may be kept: who agreed, for whom, when, for what.
CREATE TABLE IF NOT EXISTS consent (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  student VARCHAR(120) NOT NULL,
  given_by VARCHAR(120) NOT NULL,
  purpose VARCHAR(500) NOT NULL,
  given_on DATE NOT NULL,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  withdrawn_at DATETIME(6) NULL,
  KEY consent_of_studio (studio_id, withdrawn_at, id),
  UNIQUE KEY consent_in_studio (studio_id, id),
  CONSTRAINT consent_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- A take that was recorded has its sound apart from it, in chunks that no packet is too small for; they come one by one
-- and more than once. What was recorded is kept only where somebody agreed to it; else it goes when it was heard.
CREATE TABLE IF NOT EXISTS recording (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  take_id BIGINT UNSIGNED NOT NULL,
  filename VARCHAR(200) NOT NULL,
  media_type VARCHAR(100) NOT NULL,
  device VARCHAR(300) NOT NULL,
  recorder MEDIUMTEXT NOT NULL CHECK (JSON_VALID(recorder)),
  is_kept BOOLEAN NOT NULL,
  consent_id BIGINT UNSIGNED NULL,
  size BIGINT UNSIGNED NOT NULL DEFAULT 0,
  sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  completed_at DATETIME(6) NULL,
  dropped_at DATETIME(6) NULL,
  UNIQUE KEY recording_of_take (studio_id, take_id),
  UNIQUE KEY recording_in_studio (studio_id, id),
  KEY recording_kept (studio_id, dropped_at, id),
  CONSTRAINT recording_studio FOREIGN KEY (studio_id) REFERENCES studio (id),
  CONSTRAINT recording_take_in_studio FOREIGN KEY (studio_id, take_id) REFERENCES take (studio_id, id)
    ON DELETE CASCADE,
  CONSTRAINT recording_consent_in_studio FOREIGN KEY (studio_id, consent_id) REFERENCES consent (studio_id, id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

CREATE TABLE IF NOT EXISTS recording_chunk (
  studio_id BIGINT UNSIGNED NOT NULL,
  recording_id BIGINT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  bytes MEDIUMBLOB NOT NULL,
  PRIMARY KEY (recording_id, number),
  CONSTRAINT chunk_recording_in_studio FOREIGN KEY (studio_id, recording_id) REFERENCES recording (studio_id, id)
    ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
