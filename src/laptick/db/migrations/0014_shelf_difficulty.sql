-- How hard a piece is to join, from 0 to 100, beside what else the shelf shows; NULL for one hand, and where it is unread.
ALTER TABLE piece ADD COLUMN IF NOT EXISTS difficulty DOUBLE NULL;
