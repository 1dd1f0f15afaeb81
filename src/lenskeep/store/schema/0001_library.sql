-- Shoots and their frames; what was found on them; recipes, looks and what single frames change; jobs.
CREATE TABLE shoots (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    key_frame_id INTEGER REFERENCES frames (id) ON DELETE SET NULL,
    created_at TEXT NOT NULL
) STRICT;

CREATE TABLE frames (
    id INTEGER PRIMARY KEY,
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    file_name TEXT NOT NULL,
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64),
    suffix TEXT NOT NULL,
    bytes INTEGER NOT NULL,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    taken_at TEXT,
    brought_in_at TEXT NOT NULL,
    state TEXT NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'ready', 'failed')),
    problem TEXT NOT NULL DEFAULT '',
    override TEXT NOT NULL DEFAULT '{}',
    accepted INTEGER NOT NULL DEFAULT 0 CHECK (accepted IN (0, 1)),
    UNIQUE (shoot_id, sha256)
) STRICT;
CREATE INDEX frames_in_order ON frames (shoot_id, taken_at, file_name);

CREATE TABLE refusals (
    id INTEGER PRIMARY KEY,
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    file_name TEXT NOT NULL,
    reason TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;

CREATE TABLE findings (
    sha256 TEXT NOT NULL,
    detector TEXT NOT NULL,
    facts TEXT NOT NULL,
    trust REAL NOT NULL,
    PRIMARY KEY (sha256, detector)
) STRICT, WITHOUT ROWID;

CREATE TABLE recipes (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    created_at TEXT NOT NULL
) STRICT;

CREATE TABLE recipe_versions (
    id INTEGER PRIMARY KEY,
    recipe_id INTEGER NOT NULL REFERENCES recipes (id) ON DELETE RESTRICT,
    version INTEGER NOT NULL CHECK (version >= 1),
    body TEXT NOT NULL,
    created_at TEXT NOT NULL,
    UNIQUE (recipe_id, version)
) STRICT;

CREATE TABLE looks (
    shoot_id INTEGER PRIMARY KEY REFERENCES shoots (id) ON DELETE CASCADE,
    version_id INTEGER NOT NULL REFERENCES recipe_versions (id) ON DELETE RESTRICT,
    strength REAL NOT NULL CHECK (strength BETWEEN 0 AND 2),
    given_at TEXT NOT NULL
) STRICT;

CREATE TABLE results (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    key TEXT NOT NULL,
    missing TEXT NOT NULL DEFAULT '[]',
    made_at TEXT NOT NULL
) STRICT;

CREATE TABLE drafts (
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    body TEXT NOT NULL,
    did TEXT NOT NULL,
    PRIMARY KEY (shoot_id, position)
) STRICT, WITHOUT ROWID;

CREATE TABLE draft_cursors (
    shoot_id INTEGER PRIMARY KEY REFERENCES shoots (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    recipe_id INTEGER REFERENCES recipes (id) ON DELETE SET NULL
) STRICT;

CREATE TABLE jobs (
    id INTEGER PRIMARY KEY,
    kind TEXT NOT NULL,
    shoot_id INTEGER REFERENCES shoots (id) ON DELETE CASCADE,
    options TEXT NOT NULL DEFAULT '{}',
    state TEXT NOT NULL DEFAULT 'queued'
        CHECK (state IN ('queued', 'running', 'cancelling', 'cancelled', 'done', 'failed')),
    message TEXT NOT NULL DEFAULT '',
    created_at TEXT NOT NULL,
    finished_at TEXT
) STRICT;
CREATE INDEX jobs_by_state ON jobs (state, id);

CREATE TABLE job_items (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    frame_id INTEGER REFERENCES frames (id) ON DELETE CASCADE,
    state TEXT NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'running', 'done', 'failed')),
    attempts INTEGER NOT NULL DEFAULT 0,
    message TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX job_items_by_state ON job_items (job_id, state, id);
