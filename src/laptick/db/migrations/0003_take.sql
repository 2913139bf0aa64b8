-- The raw strikes stay as played; a judgement can be made again from them at any time.
CREATE TABLE take (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NOT NULL,
  rung VARCHAR(20) NOT NULL,
  settings MEDIUMTEXT NOT NULL CHECK (JSON_VALID(settings)),
  assigned_bpm DOUBLE NOT NULL,
  level VARCHAR(20) NOT NULL,
  strikes MEDIUMTEXT NOT NULL CHECK (JSON_VALID(strikes)),
  played_by VARCHAR(20) NOT NULL,
  note TEXT NOT NULL,
  client_key VARCHAR(64) NULL,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  deleted_at DATETIME(6) NULL,
  KEY take_of_piece (studio_id, piece_id, deleted_at, created_at),
  UNIQUE KEY take_client_key (studio_id, client_key),
  CONSTRAINT take_studio FOREIGN KEY (studio_id) REFERENCES studio (id),
  CONSTRAINT take_piece FOREIGN KEY (piece_id) REFERENCES piece (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- One row for every time a take was judged; the newest counts, the older ones are kept.
CREATE TABLE judgement (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  take_id BIGINT UNSIGNED NOT NULL,
  checker_version VARCHAR(20) NOT NULL,
  status VARCHAR(20) NOT NULL,
  document MEDIUMTEXT NOT NULL CHECK (JSON_VALID(document)),
  judged_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  KEY judgement_of_take (studio_id, take_id, id),
  CONSTRAINT judgement_studio FOREIGN KEY (studio_id) REFERENCES studio (id),
  CONSTRAINT judgement_take FOREIGN KEY (take_id) REFERENCES take (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
