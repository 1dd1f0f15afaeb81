-- When a job began or went on, and how much of it was done then: how many a minute, and how long it takes.
ALTER TABLE jobs ADD COLUMN begun_at TEXT NOT NULL DEFAULT '';
ALTER TABLE jobs ADD COLUMN begun_done INTEGER NOT NULL DEFAULT 0;
CREATE TRIGGER jobs_begun AFTER UPDATE OF state ON jobs WHEN new.state = 'running' AND old.state <> 'running' BEGIN
    UPDATE jobs SET begun_at = strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now'), begun_done = new.done + new.failed
    WHERE id = new.id;
END;
