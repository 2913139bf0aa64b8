-- What the device sounded while it recorded: when the passage began on the recording's clock, and when it clicked.
ALTER TABLE recording
  ADD COLUMN IF NOT EXISTS first_beat_s DOUBLE NULL AFTER recorder,
  ADD COLUMN IF NOT EXISTS clicks MEDIUMTEXT NOT NULL DEFAULT '[]' CHECK (JSON_VALID(clicks)) AFTER first_beat_s,
  ADD COLUMN IF NOT EXISTS playback_size BIGINT UNSIGNED NOT NULL DEFAULT 0 AFTER size;

-- A copy of a kept recording that every browser plays from any place: beside what was played, the click of its beat.
CREATE TABLE IF NOT EXISTS playback_chunk (
  studio_id BIGINT UNSIGNED NOT NULL,
  recording_id BIGINT UNSIGNED NOT NULL,
  number INT UNSIGNED NOT NULL,
  bytes MEDIUMBLOB NOT NULL,
  PRIMARY KEY (recording_id, number),
  CONSTRAINT playback_recording_in_studio FOREIGN KEY (studio_id, recording_id) REFERENCES recording (studio_id, id)
    ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
