-- The folder outside of the library that a job writes to, '' for none: jobs into one folder follow each other.
ALTER TABLE jobs ADD COLUMN target TEXT NOT NULL DEFAULT '';
UPDATE jobs SET target = coalesce(json_extract(options, '$.folder'), '') WHERE kind = 'export' AND json_valid(options);
CREATE INDEX jobs_by_target ON jobs (target, id) WHERE target <> '';
