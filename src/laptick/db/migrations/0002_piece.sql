-- The original file is kept as it came, and everything shown is computed from it.
CREATE TABLE piece (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  title VARCHAR(200) NOT NULL,
  composer VARCHAR(200) NOT NULL,
  filename VARCHAR(255) NOT NULL,
  original MEDIUMBLOB NOT NULL,
  original_sha256 BINARY(32) NOT NULL,
  level VARCHAR(20) NOT NULL,
  target_bpm DOUBLE NOT NULL,
  demo_key VARCHAR(100) NULL,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  deleted_at DATETIME(6) NULL,
  KEY piece_of_studio (studio_id, deleted_at, title),
  CONSTRAINT piece_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
