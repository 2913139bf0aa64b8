-- What a student answered to questions about a piece; a question's key names what was asked about.
CREATE TABLE answer (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NOT NULL,
  kind VARCHAR(20) NOT NULL,
  question VARCHAR(100) NOT NULL,
  given MEDIUMTEXT NOT NULL CHECK (JSON_VALID(given)),
  is_right BOOLEAN NOT NULL,
  answered_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  KEY answer_of_piece (studio_id, piece_id, kind, question),
  CONSTRAINT answer_studio FOREIGN KEY (studio_id) REFERENCES studio (id),
  CONSTRAINT answer_piece FOREIGN KEY (piece_id) REFERENCES piece (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
