-- What the shelf shows of a piece stands beside it, so that a full shelf is one query and no score is read for it. Each
-- group of columns says what it was worked out of; where that is no longer so, it is worked out anew.
ALTER TABLE piece ADD COLUMN IF NOT EXISTS signature VARCHAR(40) NULL;

ALTER TABLE piece ADD COLUMN IF NOT EXISTS bars INT UNSIGNED NULL;

ALTER TABLE piece ADD COLUMN IF NOT EXISTS beat_quarters VARCHAR(40) NULL;

ALTER TABLE piece ADD COLUMN IF NOT EXISTS hands VARCHAR(20) NULL;

ALTER TABLE piece ADD COLUMN IF NOT EXISTS opening MEDIUMTEXT NULL CHECK (JSON_VALID(opening));

ALTER TABLE piece ADD COLUMN IF NOT EXISTS unread VARCHAR(1000) NULL;

ALTER TABLE piece ADD COLUMN IF NOT EXISTS face_of VARCHAR(150) NULL;

ALTER TABLE piece ADD COLUMN IF NOT EXISTS takes_changed BIGINT UNSIGNED NOT NULL DEFAULT 0;

ALTER TABLE piece ADD COLUMN IF NOT EXISTS progress MEDIUMTEXT NULL CHECK (JSON_VALID(progress));

ALTER TABLE piece ADD COLUMN IF NOT EXISTS progress_of VARCHAR(150) NULL;

ALTER TABLE piece ADD COLUMN IF NOT EXISTS is_asymmetric BOOLEAN NULL;
