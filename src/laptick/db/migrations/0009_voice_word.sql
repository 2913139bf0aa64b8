-- A teacher's recordings of counted words; the newest used one of a reading is heard. Readings differ by case.
CREATE TABLE voice_word (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  reading VARCHAR(24) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  spoken VARCHAR(24) NOT NULL,
  audio MEDIUMBLOB NOT NULL,
  vowel_s DOUBLE NOT NULL,
  is_used BOOLEAN NOT NULL DEFAULT TRUE,
  recorded_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  KEY voice_word_of_studio (studio_id, reading, id),
  CONSTRAINT voice_word_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
