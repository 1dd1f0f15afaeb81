-- What a job keeps of the moment it was queued in, which of its items are suspected of taking the program down, and
-- what a hand-over has written.
ALTER TABLE job_items ADD COLUMN suspect INTEGER NOT NULL DEFAULT 0 CHECK (suspect IN (0, 1));
ALTER TABLE job_items ADD COLUMN given TEXT NOT NULL DEFAULT '{}';
UPDATE job_items SET attempts = 0 WHERE state IN ('waiting', 'running');
CREATE INDEX job_items_by_frame ON job_items (frame_id);
CREATE INDEX frames_by_sum ON frames (sha256);
CREATE INDEX results_by_key ON results (key);

CREATE TABLE delivered (
    job_id INTEGER NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    item_id INTEGER NOT NULL REFERENCES job_items (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    bytes INTEGER NOT NULL,
    crc32 INTEGER NOT NULL,
    sha256 TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT '',
    missing TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (job_id, item_id)
) STRICT, WITHOUT ROWID;

-- Whatever files we have written into folders outside the library, so that only those are ever replaced.
CREATE TABLE written (
    path TEXT NOT NULL PRIMARY KEY,
    sha256 TEXT NOT NULL,
    bytes INTEGER NOT NULL,
    mtime_ns INTEGER NOT NULL,
    at TEXT NOT NULL
) STRICT, WITHOUT ROWID;

-- Why a frame could not be rendered; when its masks were found.
ALTER TABLE frames ADD COLUMN render_problem TEXT NOT NULL DEFAULT '';
ALTER TABLE findings ADD COLUMN made_at TEXT NOT NULL DEFAULT '';

-- The states of a Bench: the newest whole, those before it as what has to be changed in the one after them.
CREATE TABLE draft_states (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    did TEXT NOT NULL,
    body TEXT NOT NULL,
    spliced INTEGER NOT NULL DEFAULT 0 CHECK (spliced IN (0, 1)),
    UNIQUE (shoot_id, position)
) STRICT;
INSERT INTO draft_states (shoot_id, position, did, body)
    SELECT shoot_id, position, did, body FROM drafts ORDER BY shoot_id, position;
DROP TABLE drafts;
