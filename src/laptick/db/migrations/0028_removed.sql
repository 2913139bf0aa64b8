-- From now on what was removed is gone for good after thirty days. What was removed before counts from now: nobody was
-- told of an end.
UPDATE piece SET deleted_at = UTC_TIMESTAMP(6) WHERE deleted_at IS NOT NULL;

UPDATE student SET deleted_at = UTC_TIMESTAMP(6) WHERE deleted_at IS NOT NULL;

UPDATE take SET deleted_at = UTC_TIMESTAMP(6) WHERE deleted_at IS NOT NULL;

UPDATE listening SET deleted_at = UTC_TIMESTAMP(6) WHERE deleted_at IS NOT NULL;
