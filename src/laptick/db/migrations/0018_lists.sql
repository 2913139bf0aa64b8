-- What lists show of a take stands in its row, written together with what it comes from: its newest judgement, and the
-- teacher's word that holds.
ALTER TABLE take ADD COLUMN IF NOT EXISTS status VARCHAR(20) NULL;

ALTER TABLE take ADD COLUMN IF NOT EXISTS overruled VARCHAR(20) NULL;

ALTER TABLE take ADD COLUMN IF NOT EXISTS checker_version VARCHAR(20) NULL;

ALTER TABLE take ADD COLUMN IF NOT EXISTS judged_at DATETIME(6) NULL;

ALTER TABLE take ADD COLUMN IF NOT EXISTS verdict MEDIUMTEXT NULL CHECK (verdict IS NULL OR JSON_VALID(verdict));

ALTER TABLE take ADD COLUMN IF NOT EXISTS codes MEDIUMTEXT NULL CHECK (codes IS NULL OR JSON_VALID(codes));

ALTER TABLE take ADD COLUMN IF NOT EXISTS median_bpm DOUBLE NULL;

UPDATE take JOIN (SELECT take_id, MAX(id) AS id FROM judgement GROUP BY take_id) AS newest ON newest.take_id = take.id
  JOIN judgement ON judgement.id = newest.id SET take.status = judgement.status,
  take.checker_version = judgement.checker_version, take.judged_at = judgement.judged_at,
  take.verdict = judgement.verdict, take.codes = judgement.codes, take.median_bpm = judgement.median_bpm;

UPDATE take JOIN (SELECT take_id, MAX(id) AS id FROM overrule WHERE withdrawn_at IS NULL GROUP BY take_id) AS newest
  ON newest.take_id = take.id JOIN overrule ON overrule.id = newest.id SET take.overruled = overrule.status;

-- Lists are read page by page, in the order of these.
ALTER TABLE take ADD KEY IF NOT EXISTS take_newest (studio_id, piece_id, deleted_at, id);

ALTER TABLE take ADD KEY IF NOT EXISTS take_of_activity (studio_id, study_id, activity, id);

ALTER TABLE take ADD KEY IF NOT EXISTS take_by_checker (studio_id, deleted_at, checker_version, id);

ALTER TABLE piece ADD KEY IF NOT EXISTS piece_on_shelf (studio_id, deleted_at, title, id);

ALTER TABLE piece ADD KEY IF NOT EXISTS piece_of_file (studio_id, original_sha256, id);
