-- The teacher's word on a take, beside the figures: never in their place. The newest that is not withdrawn holds.
CREATE TABLE overrule (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  take_id BIGINT UNSIGNED NOT NULL,
  status VARCHAR(20) NOT NULL,
  reason VARCHAR(1000) NOT NULL,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  withdrawn_at DATETIME(6) NULL,
  KEY overrule_of_take (studio_id, take_id, id),
  CONSTRAINT overrule_studio FOREIGN KEY (studio_id) REFERENCES studio (id),
  CONSTRAINT overrule_take FOREIGN KEY (take_id) REFERENCES take (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- Slips as the teacher heard them, tapped on one key while the student played.
CREATE TABLE listening (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NOT NULL,
  settings MEDIUMTEXT NOT NULL CHECK (JSON_VALID(settings)),
  slips MEDIUMTEXT NOT NULL CHECK (JSON_VALID(slips)),
  first_beat_s DOUBLE NOT NULL,
  note TEXT NOT NULL,
  client_key VARCHAR(64) NULL,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  deleted_at DATETIME(6) NULL,
  KEY listening_of_piece (studio_id, piece_id, deleted_at, created_at),
  UNIQUE KEY listening_client_key (studio_id, client_key),
  CONSTRAINT listening_studio FOREIGN KEY (studio_id) REFERENCES studio (id),
  CONSTRAINT listening_piece FOREIGN KEY (piece_id) REFERENCES piece (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
