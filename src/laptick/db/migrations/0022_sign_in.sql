-- Teachers, who sign in with a name and a password. ``recovery_hash``: of the code that lets them in without it, used
-- once; ``totp_secret``: of a second factor, ``totp_step``: the last one used, so that none is used twice;
-- ``is_demo``: the demo's, without a password.
CREATE TABLE IF NOT EXISTS teacher (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  password_hash VARCHAR(255) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  recovery_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL,
  totp_secret VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL,
  totp_step BIGINT UNSIGNED NOT NULL DEFAULT 0,
  is_demo BOOLEAN NOT NULL DEFAULT FALSE,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  UNIQUE KEY teacher_of_name (name),
  UNIQUE KEY teacher_in_studio (studio_id, id),
  CONSTRAINT teacher_studio FOREIGN KEY (studio_id) REFERENCES studio (id)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- Wrong passwords in a row, device by device: one on which a teacher signed in before is counted apart from all
-- strange ones ('' is these together), so that nobody elsewhere can shut her out of her own.
CREATE TABLE IF NOT EXISTS sign_in_device (
  studio_id BIGINT UNSIGNED NOT NULL,
  teacher_id BIGINT UNSIGNED NOT NULL,
  device_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  fails INT UNSIGNED NOT NULL DEFAULT 0,
  until DATETIME(6) NULL,
  PRIMARY KEY (teacher_id, device_hash),
  CONSTRAINT device_teacher_in_studio FOREIGN KEY (studio_id, teacher_id) REFERENCES teacher (studio_id, id)
    ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- A personal link opens one student's own practice, for the student or a parent, without a password. Its token is kept
-- as a hash only; a new link in its place ends what was opened by the old one.
CREATE TABLE IF NOT EXISTS personal_link (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  studio_id BIGINT UNSIGNED NOT NULL,
  student_id BIGINT UNSIGNED NOT NULL,
  role VARCHAR(10) NOT NULL,
  token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  pin_hash VARCHAR(255) CHARACTER SET ascii COLLATE ascii_bin NULL,
  fails INT UNSIGNED NOT NULL DEFAULT 0,
  until DATETIME(6) NULL,
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  opened_at DATETIME(6) NULL,
  UNIQUE KEY link_of_student (studio_id, student_id, role),
  UNIQUE KEY link_of_token (token_hash),
  UNIQUE KEY link_in_studio (studio_id, id),
  CONSTRAINT link_student_in_studio FOREIGN KEY (studio_id, student_id) REFERENCES student (studio_id, id)
    ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- Who is signed in, by the hash of what the browser keeps: a teacher, or whoever came by a personal link.
CREATE TABLE IF NOT EXISTS session (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  studio_id BIGINT UNSIGNED NOT NULL,
  teacher_id BIGINT UNSIGNED NULL,
  link_id BIGINT UNSIGNED NULL,
  device VARCHAR(200) NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  seen_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  expires_at DATETIME(6) NOT NULL,
  UNIQUE KEY session_of_token (token_hash),
  KEY session_of_teacher (studio_id, teacher_id),
  KEY session_of_link (studio_id, link_id),
  KEY session_over (expires_at),
  CONSTRAINT session_of_one CHECK ((teacher_id IS NULL) <> (link_id IS NULL)),
  CONSTRAINT session_teacher_in_studio FOREIGN KEY (studio_id, teacher_id) REFERENCES teacher (studio_id, id)
    ON DELETE CASCADE,
  CONSTRAINT session_link_in_studio FOREIGN KEY (studio_id, link_id) REFERENCES personal_link (studio_id, id)
    ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;

-- Who agreed for whom: a consent is a student's. Those noted before were of a name only.
ALTER TABLE consent ADD COLUMN IF NOT EXISTS student_id BIGINT UNSIGNED NULL;

ALTER TABLE consent ADD KEY IF NOT EXISTS consent_of_student (studio_id, student_id);

-- Where the name is one student's and nobody else's, it is that one's; no more is kept by the others.
UPDATE consent SET student_id = (SELECT MIN(student.id) FROM student WHERE student.studio_id = consent.studio_id
  AND student.name = consent.student HAVING COUNT(*) = 1) WHERE student_id IS NULL;
