BEGIN TRANSACTION;
CREATE TABLE draft_cursors (
    shoot_id INTEGER PRIMARY KEY REFERENCES shoots (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    recipe_id INTEGER REFERENCES recipes (id) ON DELETE SET NULL
) STRICT;
INSERT INTO "draft_cursors" VALUES(1,1,1);
CREATE TABLE drafts (
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    body TEXT NOT NULL,
    did TEXT NOT NULL,
    PRIMARY KEY (shoot_id, position)
) STRICT, WITHOUT ROWID;
INSERT INTO "drafts" VALUES(1,0,'{"format":"lenskeep-recipe/1","name":"Evening","note":"","strength":1.0,"steps":[{"id":"subject","name":"Subject","region":{"parts":[{"combine":"add","invert":false,"kind":"subject","which":"all"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"exposure","ev":0.0}],"strength":1.0,"blend":"normal","enabled":true},{"id":"background","name":"Background","region":{"parts":[{"combine":"add","invert":false,"kind":"background"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"exposure","ev":-0.0}],"strength":1.0,"blend":"normal","enabled":true},{"id":"sky","name":"Sky","region":{"parts":[{"combine":"add","invert":false,"kind":"sky"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"highlights","highlights":-40.0}],"strength":1.0,"blend":"normal","enabled":true}],"regions":{}}','did 0');
INSERT INTO "drafts" VALUES(1,1,'{"format":"lenskeep-recipe/1","name":"Evening","note":"","strength":1.0,"steps":[{"id":"subject","name":"Subject","region":{"parts":[{"combine":"add","invert":false,"kind":"subject","which":"all"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"exposure","ev":0.1}],"strength":1.0,"blend":"normal","enabled":true},{"id":"background","name":"Background","region":{"parts":[{"combine":"add","invert":false,"kind":"background"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"exposure","ev":-0.1}],"strength":1.0,"blend":"normal","enabled":true},{"id":"sky","name":"Sky","region":{"parts":[{"combine":"add","invert":false,"kind":"sky"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"highlights","highlights":-40.0}],"strength":1.0,"blend":"normal","enabled":true}],"regions":{}}','did 1');
INSERT INTO "drafts" VALUES(1,2,'{"format":"lenskeep-recipe/1","name":"Evening","note":"","strength":1.0,"steps":[{"id":"subject","name":"Subject","region":{"parts":[{"combine":"add","invert":false,"kind":"subject","which":"all"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"exposure","ev":0.2}],"strength":1.0,"blend":"normal","enabled":true},{"id":"background","name":"Background","region":{"parts":[{"combine":"add","invert":false,"kind":"background"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"exposure","ev":-0.2}],"strength":1.0,"blend":"normal","enabled":true},{"id":"sky","name":"Sky","region":{"parts":[{"combine":"add","invert":false,"kind":"sky"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"highlights","highlights":-40.0}],"strength":1.0,"blend":"normal","enabled":true}],"regions":{}}','did 2');
CREATE TABLE findings (
    sha256 TEXT NOT NULL,
    detector TEXT NOT NULL,
    facts TEXT NOT NULL,
    trust REAL NOT NULL,
    PRIMARY KEY (sha256, detector)
) STRICT, WITHOUT ROWID;
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
INSERT INTO "frames" VALUES(1,1,'a.jpg','aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa','.jpg',10,30,20,NULL,'2026-09-12T10:00:00.000+00:00','ready','','{}',0);
CREATE TABLE job_items (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    frame_id INTEGER REFERENCES frames (id) ON DELETE CASCADE,
    state TEXT NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'running', 'done', 'failed')),
    attempts INTEGER NOT NULL DEFAULT 0,
    message TEXT NOT NULL DEFAULT ''
) STRICT;
INSERT INTO "job_items" VALUES(1,1,1,'running',2,'');
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
INSERT INTO "jobs" VALUES(1,'find',1,'{}','running','','2026-09-12T10:00:00.000+00:00',NULL);
CREATE TABLE looks (
    shoot_id INTEGER PRIMARY KEY REFERENCES shoots (id) ON DELETE CASCADE,
    version_id INTEGER NOT NULL REFERENCES recipe_versions (id) ON DELETE RESTRICT,
    strength REAL NOT NULL CHECK (strength BETWEEN 0 AND 2),
    given_at TEXT NOT NULL
) STRICT;
INSERT INTO "looks" VALUES(1,1,1.0,'2026-09-12T10:00:00.000+00:00');
CREATE TABLE migrations (name TEXT PRIMARY KEY) STRICT, WITHOUT ROWID;
INSERT INTO "migrations" VALUES('0001_library.sql');
CREATE TABLE recipe_versions (
    id INTEGER PRIMARY KEY,
    recipe_id INTEGER NOT NULL REFERENCES recipes (id) ON DELETE RESTRICT,
    version INTEGER NOT NULL CHECK (version >= 1),
    body TEXT NOT NULL,
    created_at TEXT NOT NULL,
    UNIQUE (recipe_id, version)
) STRICT;
INSERT INTO "recipe_versions" VALUES(1,1,1,'{"format":"lenskeep-recipe/1","name":"Evening","note":"","strength":1.0,"steps":[{"id":"subject","name":"Subject","region":{"parts":[{"combine":"add","invert":false,"kind":"subject","which":"all"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"exposure","ev":0.5}],"strength":1.0,"blend":"normal","enabled":true},{"id":"background","name":"Background","region":{"parts":[{"combine":"add","invert":false,"kind":"background"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"exposure","ev":-0.5}],"strength":1.0,"blend":"normal","enabled":true},{"id":"sky","name":"Sky","region":{"parts":[{"combine":"add","invert":false,"kind":"sky"}],"invert":false,"grow":0.0,"snap":0.0,"feather":0.0,"ceiling":1.0},"shared":null,"copied_from":null,"fallback":"leave the step out","adjustments":[{"kind":"highlights","highlights":-40.0}],"strength":1.0,"blend":"normal","enabled":true}],"regions":{}}','2026-09-12T10:00:00.000+00:00');
CREATE TABLE recipes (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    created_at TEXT NOT NULL
) STRICT;
INSERT INTO "recipes" VALUES(1,'Evening','2026-09-12T10:00:00.000+00:00');
CREATE TABLE refusals (
    id INTEGER PRIMARY KEY,
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    file_name TEXT NOT NULL,
    reason TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE TABLE results (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    key TEXT NOT NULL,
    missing TEXT NOT NULL DEFAULT '[]',
    made_at TEXT NOT NULL
) STRICT;
CREATE TABLE shoots (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    key_frame_id INTEGER REFERENCES frames (id) ON DELETE SET NULL,
    created_at TEXT NOT NULL
) STRICT;
INSERT INTO "shoots" VALUES(1,'From version 1',NULL,'2026-09-12T10:00:00.000+00:00');
CREATE INDEX frames_in_order ON frames (shoot_id, taken_at, file_name);
CREATE INDEX jobs_by_state ON jobs (state, id);
CREATE INDEX job_items_by_state ON job_items (job_id, state, id);
COMMIT;
