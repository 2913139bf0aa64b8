-- How a piece's file is read where it leaves something open, and the teacher's own playing order.
ALTER TABLE piece ADD COLUMN reading MEDIUMTEXT NULL CHECK (JSON_VALID(reading));

ALTER TABLE piece ADD COLUMN play_order MEDIUMTEXT NULL CHECK (JSON_VALID(play_order));
