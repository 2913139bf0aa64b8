-- A second lock beside the queries: whatever belongs to a piece or a take belongs to the same studio, and goes with it.
-- The foreign keys decide what a deletion for good takes along.
ALTER TABLE piece ADD UNIQUE KEY IF NOT EXISTS piece_in_studio (studio_id, id);

ALTER TABLE take ADD UNIQUE KEY IF NOT EXISTS take_in_studio (studio_id, id);

ALTER TABLE pencil_version ADD UNIQUE KEY IF NOT EXISTS pencil_version_of_piece (studio_id, piece_id, id);

ALTER TABLE take DROP FOREIGN KEY IF EXISTS take_piece;

ALTER TABLE take ADD CONSTRAINT take_piece_in_studio FOREIGN KEY IF NOT EXISTS take_of_piece (studio_id, piece_id)
  REFERENCES piece (studio_id, id) ON DELETE CASCADE;

ALTER TABLE judgement DROP FOREIGN KEY IF EXISTS judgement_take;

ALTER TABLE judgement ADD CONSTRAINT judgement_take_in_studio FOREIGN KEY IF NOT EXISTS judgement_of_take
  (studio_id, take_id) REFERENCES take (studio_id, id) ON DELETE CASCADE;

ALTER TABLE overrule DROP FOREIGN KEY IF EXISTS overrule_take;

ALTER TABLE overrule ADD CONSTRAINT overrule_take_in_studio FOREIGN KEY IF NOT EXISTS overrule_of_take
  (studio_id, take_id) REFERENCES take (studio_id, id) ON DELETE CASCADE;

ALTER TABLE listening DROP FOREIGN KEY IF EXISTS listening_piece;

ALTER TABLE listening ADD CONSTRAINT listening_piece_in_studio FOREIGN KEY IF NOT EXISTS listening_of_piece
  (studio_id, piece_id) REFERENCES piece (studio_id, id) ON DELETE CASCADE;

ALTER TABLE answer DROP FOREIGN KEY IF EXISTS answer_piece;

ALTER TABLE answer ADD CONSTRAINT answer_piece_in_studio FOREIGN KEY IF NOT EXISTS answer_of_piece
  (studio_id, piece_id) REFERENCES piece (studio_id, id) ON DELETE CASCADE;

ALTER TABLE count_choice DROP FOREIGN KEY IF EXISTS count_choice_piece;

ALTER TABLE count_choice ADD CONSTRAINT count_choice_piece_in_studio FOREIGN KEY IF NOT EXISTS
  count_choice_in_studio (studio_id, piece_id) REFERENCES piece (studio_id, id) ON DELETE CASCADE;

ALTER TABLE pencil_version DROP FOREIGN KEY IF EXISTS pencil_version_piece;

ALTER TABLE pencil_version ADD CONSTRAINT pencil_version_piece_in_studio FOREIGN KEY IF NOT EXISTS
  pencil_version_line (studio_id, piece_id) REFERENCES piece (studio_id, id) ON DELETE CASCADE;

-- The version that holds is one of this piece.
ALTER TABLE piece ADD CONSTRAINT piece_pencil_version FOREIGN KEY IF NOT EXISTS piece_pencil_version
  (studio_id, id, pencil_version_id) REFERENCES pencil_version (studio_id, piece_id, id);
