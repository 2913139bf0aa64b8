-- A parent's link says whose it is: sound is heard by the parent who agreed to its being kept, and by no other. One that
-- is there already is taken to be of who agreed last.
ALTER TABLE personal_link
  ADD COLUMN IF NOT EXISTS held_by VARCHAR(120) NOT NULL DEFAULT '' AFTER role,
  ADD UNIQUE KEY IF NOT EXISTS link_of_holder (studio_id, student_id, role, held_by),
  DROP KEY IF EXISTS link_of_student;

UPDATE personal_link SET held_by = COALESCE(
  (SELECT consent.given_by FROM consent WHERE consent.studio_id = personal_link.studio_id
     AND consent.student_id = personal_link.student_id AND consent.withdrawn_at IS NULL
     ORDER BY consent.id DESC LIMIT 1), '')
  WHERE role = 'parent' AND held_by = '';
