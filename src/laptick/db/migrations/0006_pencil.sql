-- The teacher's pencil on a piece: every state of its list of changes, each naming the one it came from. The piece
-- points at the one that holds (none: the score as it came); undo and redo move along the line.
CREATE TABLE pencil_version (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  piece_id BIGINT UNSIGNED NOT NULL,
  before_id BIGINT UNSIGNED NULL,
  changes MEDIUMTEXT NOT NULL CHECK (JSON_VALID(changes)),
  made_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  KEY pencil_version_line (studio_id, piece_id, before_id),
  CONSTRAINT pencil_version_studio FOREIGN KEY (studio_id) REFERENCES studio (id),
  CONSTRAINT pencil_version_piece FOREIGN KEY (piece_id) REFERENCES piece (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

ALTER TABLE piece ADD COLUMN pencil_version_id BIGINT UNSIGNED NULL;
