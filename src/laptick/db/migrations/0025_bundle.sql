-- A studio, or what is one student's, as one file: going out, or coming in. In chunks, as recordings are; kept a day.
-- ``student_id``: whose share it is; ``contents``: what is in it; ``brought``: what came of bringing it in.
CREATE TABLE IF NOT EXISTS bundle (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  direction VARCHAR(4) NOT NULL,
  student_id BIGINT UNSIGNED NULL,
  filename VARCHAR(200) NOT NULL,
  size BIGINT UNSIGNED NOT NULL DEFAULT 0,
  contents MEDIUMTEXT NULL CHECK (contents IS NULL OR JSON_VALID(contents)),
  brought MEDIUMTEXT NULL CHECK (brought IS NULL OR JSON_VALID(brought)),
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  completed_at DATETIME(6) NULL,
  UNIQUE KEY bundle_in_studio (studio_id, id),
  KEY bundle_over (created_at),
  CONSTRAINT bundle_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

CREATE TABLE IF NOT EXISTS bundle_chunk (
  studio_id BIGINT UNSIGNED NOT NULL,
  bundle_id BIGINT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  bytes MEDIUMBLOB NOT NULL,
  PRIMARY KEY (bundle_id, number),
  CONSTRAINT chunk_bundle_in_studio FOREIGN KEY (studio_id, bundle_id) REFERENCES bundle (studio_id, id)
    ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
