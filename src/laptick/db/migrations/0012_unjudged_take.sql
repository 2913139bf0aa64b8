-- A take may be stored before it is judged, or without ever being: what was played is kept all the same. Of a recording
-- the strikes are not known until it was heard.
ALTER TABLE take MODIFY COLUMN strikes MEDIUMTEXT NULL CHECK (JSON_VALID(strikes));

ALTER TABLE take ADD COLUMN IF NOT EXISTS state VARCHAR(20) NOT NULL DEFAULT 'waiting';

ALTER TABLE take ADD COLUMN IF NOT EXISTS failure VARCHAR(1000) NULL;

UPDATE take SET state = 'judged' WHERE EXISTS (SELECT 1 FROM judgement WHERE judgement.take_id = take.id);

-- What lists ask of a judgement stands beside its document, which is kept compressed, and only of the newest one.
ALTER TABLE judgement ADD COLUMN IF NOT EXISTS verdict MEDIUMTEXT NULL CHECK (JSON_VALID(verdict));

ALTER TABLE judgement ADD COLUMN IF NOT EXISTS codes MEDIUMTEXT NOT NULL DEFAULT '[]' CHECK (JSON_VALID(codes));

ALTER TABLE judgement ADD COLUMN IF NOT EXISTS median_bpm DOUBLE NULL;

ALTER TABLE judgement ADD COLUMN IF NOT EXISTS packed MEDIUMBLOB NULL;

UPDATE judgement SET verdict = JSON_EXTRACT(document, '$.verdict'),
  codes = COALESCE(JSON_EXTRACT(document, '$.findings[*].code'), '[]'),
  median_bpm = CAST(NULLIF(JSON_VALUE(document, '$.tempo.median_bpm'), 'null') AS DOUBLE);

UPDATE judgement JOIN (SELECT MAX(id) AS id FROM judgement GROUP BY take_id) AS newest ON newest.id = judgement.id
  SET packed = COMPRESS(document);

ALTER TABLE judgement DROP COLUMN IF EXISTS document;

ALTER TABLE judgement CHANGE COLUMN IF EXISTS packed document MEDIUMBLOB NULL;
