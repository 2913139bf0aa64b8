-- How to count: the studio's choices in one row (no piece), a piece's in one row of its own.
CREATE TABLE count_choice (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NULL,
  piece_key BIGINT UNSIGNED AS (IFNULL(piece_id, 0)) PERSISTENT,
  document MEDIUMTEXT NOT NULL CHECK (JSON_VALID(document)),
  changed_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  UNIQUE KEY count_choice_of_piece (studio_id, piece_key),
  CONSTRAINT count_choice_studio FOREIGN KEY (studio_id) REFERENCES studio (id),
  CONSTRAINT count_choice_piece FOREIGN KEY (piece_id) REFERENCES piece (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
