-- Who saw, changed or deleted what of people: what was done, to which row, without its content.
CREATE TABLE IF NOT EXISTS audit (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  role VARCHAR(10) NOT NULL,
  teacher_id BIGINT UNSIGNED NULL,
  student_id BIGINT UNSIGNED NULL,
  what VARCHAR(40) NOT NULL,
  of_kind VARCHAR(20) NULL,
  of_id BIGINT UNSIGNED NULL,
  KEY audit_of_studio (studio_id, id),
  KEY audit_at (at),
  CONSTRAINT audit_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
