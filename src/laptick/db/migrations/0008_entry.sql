-- A passage that was typed here: its document, from which the piece's score is written, and how often it was stored.
ALTER TABLE piece ADD COLUMN entry MEDIUMTEXT NULL CHECK (JSON_VALID(entry));

ALTER TABLE piece ADD COLUMN entry_version INT UNSIGNED NOT NULL DEFAULT 0;
