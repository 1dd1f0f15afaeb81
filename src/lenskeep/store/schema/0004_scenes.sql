-- Room for whole shoots: scenes with layers, assets beside recipes, summaries of frames, lanes of the queue. Tables that
-- change are built anew; foreign keys are off meanwhile and checked at the end (store/database.py).
CREATE TABLE new_shoots (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    raw_base TEXT NOT NULL DEFAULT 'soft' CHECK (raw_base IN ('soft', 'neutral')),
    created_at TEXT NOT NULL,
    opened_at TEXT NOT NULL DEFAULT ''
) STRICT;
INSERT INTO new_shoots (id, name, raw_base, created_at) SELECT id, name, raw_base, created_at FROM shoots;

CREATE TABLE scenes (
    id INTEGER PRIMARY KEY,
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    place INTEGER NOT NULL,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    key_frame_id INTEGER REFERENCES frames (id) ON DELETE SET NULL,
    created_at TEXT NOT NULL,
    UNIQUE (shoot_id, place)
) STRICT;
INSERT INTO scenes (id, shoot_id, place, name, key_frame_id, created_at)
    SELECT id, id, 1, 'Scene 1', key_frame_id, created_at FROM shoots;
CREATE INDEX scenes_by_key_frame ON scenes (key_frame_id);

-- A frame with a summary of what was found on it and of how it is finished, so that no list reads whole facts. `place`
-- is its order in the shoot; `doubt` says that its masks are doubted; `wanted_key` is the picture that its look wants,
-- '' without a look, '?' until it is worked out; `touched` grows with every change that a list shows.
CREATE TABLE new_frames (
    id INTEGER PRIMARY KEY,
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    scene_id INTEGER NOT NULL REFERENCES scenes (id) ON DELETE CASCADE,
    place TEXT NOT NULL,
    file_name TEXT NOT NULL,
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64),
    suffix TEXT NOT NULL,
    bytes INTEGER NOT NULL,
    width INTEGER NOT NULL,
    height INTEGER NOT NULL,
    taken_at TEXT,
    brought_in_at TEXT NOT NULL,
    raw_base TEXT NOT NULL DEFAULT '' CHECK (raw_base IN ('', 'soft', 'neutral')),
    state TEXT NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'ready', 'failed')),
    problem TEXT NOT NULL DEFAULT '',
    render_problem TEXT NOT NULL DEFAULT '',
    override TEXT NOT NULL DEFAULT '{}',
    changed INTEGER NOT NULL DEFAULT 0 CHECK (changed IN (0, 1)),
    accepted INTEGER NOT NULL DEFAULT 0 CHECK (accepted IN (0, 1)),
    found_by TEXT NOT NULL DEFAULT '',
    found_at TEXT NOT NULL DEFAULT '',
    trust REAL NOT NULL DEFAULT 1,
    doubt INTEGER NOT NULL DEFAULT 0 CHECK (doubt IN (0, 1)),
    reason TEXT NOT NULL DEFAULT '',
    box TEXT NOT NULL DEFAULT '',
    skyline TEXT NOT NULL DEFAULT '',
    subject_area REAL NOT NULL DEFAULT 0,
    sky_area REAL NOT NULL DEFAULT 0,
    areas TEXT NOT NULL DEFAULT '',
    wanted_key TEXT NOT NULL DEFAULT '',
    result_key TEXT NOT NULL DEFAULT '',
    missing TEXT NOT NULL DEFAULT '[]',
    touched INTEGER NOT NULL DEFAULT 0,
    doubtful INTEGER NOT NULL GENERATED ALWAYS AS (
        accepted = 0 AND (state = 'failed' OR (found_by <> '' AND (doubt = 1 OR missing <> '[]')))
    ) VIRTUAL,
    UNIQUE (shoot_id, sha256)
) STRICT;
INSERT INTO new_frames (id, shoot_id, scene_id, place, file_name, sha256, suffix, bytes, width, height, taken_at,
        brought_in_at, raw_base, state, problem, render_problem, override, accepted, result_key, missing)
    SELECT f.id, f.shoot_id, f.shoot_id, coalesce(f.taken_at, '~') || ' ' || f.file_name, f.file_name, f.sha256,
        f.suffix, f.bytes, f.width, f.height, f.taken_at, f.brought_in_at, f.base, f.state, f.problem,
        f.render_problem, f.override, f.accepted, coalesce(r.key, ''), coalesce(r.missing, '[]')
    FROM frames f LEFT JOIN results r ON r.frame_id = f.id;
DROP TABLE results;
DROP TABLE frames;
ALTER TABLE new_frames RENAME TO frames;
DROP TABLE shoots;
ALTER TABLE new_shoots RENAME TO shoots;
CREATE INDEX frames_in_order ON frames (shoot_id, place, id);
CREATE INDEX frames_of_scene ON frames (scene_id, place, id);
CREATE INDEX frames_by_sum ON frames (sha256);
CREATE INDEX frames_by_result ON frames (result_key);
CREATE INDEX frames_by_touch ON frames (shoot_id, touched);
CREATE INDEX frames_doubtful ON frames (shoot_id, place, id) WHERE doubtful = 1;
CREATE INDEX frames_changed ON frames (shoot_id, place, id) WHERE changed = 1;
CREATE INDEX frames_to_settle ON frames (scene_id) WHERE wanted_key = '?';
CREATE INDEX frames_by_finder ON frames (found_by);

CREATE TABLE counters (name TEXT NOT NULL PRIMARY KEY, n INTEGER NOT NULL) STRICT, WITHOUT ROWID;
INSERT INTO counters VALUES ('frames', 0);
CREATE TRIGGER frames_added AFTER INSERT ON frames BEGIN
    UPDATE counters SET n = n + 1 WHERE name = 'frames';
    UPDATE frames SET touched = (SELECT n FROM counters WHERE name = 'frames') WHERE id = new.id;
END;
CREATE TRIGGER frames_touched AFTER UPDATE OF scene_id, state, problem, render_problem, changed, accepted, found_by,
    trust, doubt, reason, wanted_key, result_key, missing ON frames BEGIN
    UPDATE counters SET n = n + 1 WHERE name = 'frames';
    UPDATE frames SET touched = (SELECT n FROM counters WHERE name = 'frames') WHERE id = new.id;
END;

-- What was worked out for which version of detectors and engine.
CREATE TABLE settled (name TEXT NOT NULL PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID;

-- A scene's look: recipes one upon another, the bottom first.
CREATE TABLE layers (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    scene_id INTEGER NOT NULL REFERENCES scenes (id) ON DELETE CASCADE,
    place INTEGER NOT NULL,
    version_id INTEGER NOT NULL REFERENCES recipe_versions (id) ON DELETE RESTRICT,
    strength REAL NOT NULL CHECK (strength BETWEEN 0 AND 2),
    enabled INTEGER NOT NULL DEFAULT 1 CHECK (enabled IN (0, 1)),
    given_at TEXT NOT NULL,
    UNIQUE (scene_id, place)
) STRICT;
INSERT INTO layers (scene_id, place, version_id, strength, given_at)
    SELECT shoot_id, 1, version_id, strength, given_at FROM looks ORDER BY shoot_id;
DROP TABLE looks;
CREATE INDEX layers_by_version ON layers (version_id);

CREATE TABLE new_draft_states (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    scene_id INTEGER NOT NULL REFERENCES scenes (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    did TEXT NOT NULL,
    body TEXT NOT NULL,
    spliced INTEGER NOT NULL DEFAULT 0 CHECK (spliced IN (0, 1)),
    UNIQUE (scene_id, position)
) STRICT;
INSERT INTO new_draft_states SELECT id, shoot_id, position, did, body, spliced FROM draft_states;
UPDATE sqlite_sequence SET seq = (SELECT max(seq) FROM sqlite_sequence WHERE name IN ('draft_states', 'new_draft_states'))
    WHERE name = 'new_draft_states';
DROP TABLE draft_states;
ALTER TABLE new_draft_states RENAME TO draft_states;
CREATE TABLE new_draft_cursors (
    scene_id INTEGER PRIMARY KEY REFERENCES scenes (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    recipe_id INTEGER REFERENCES recipes (id) ON DELETE SET NULL
) STRICT;
INSERT INTO new_draft_cursors SELECT shoot_id, position, recipe_id FROM draft_cursors;
DROP TABLE draft_cursors;
ALTER TABLE new_draft_cursors RENAME TO draft_cursors;
CREATE INDEX draft_cursors_by_recipe ON draft_cursors (recipe_id);

-- Pictures and tables that recipes refer to by their content's hash; the files lie in the library's `assets`.
CREATE TABLE assets (
    sha256 TEXT NOT NULL PRIMARY KEY CHECK (length(sha256) = 64),
    bytes INTEGER NOT NULL,
    brought_in_at TEXT NOT NULL
) STRICT, WITHOUT ROWID;
CREATE TABLE version_assets (
    version_id INTEGER NOT NULL REFERENCES recipe_versions (id) ON DELETE CASCADE,
    sha256 TEXT NOT NULL REFERENCES assets (sha256) ON DELETE RESTRICT,
    PRIMARY KEY (version_id, sha256)
) STRICT, WITHOUT ROWID;
CREATE INDEX version_assets_by_sum ON version_assets (sha256);
CREATE TABLE state_assets (
    state_id INTEGER NOT NULL REFERENCES draft_states (id) ON DELETE CASCADE,
    sha256 TEXT NOT NULL REFERENCES assets (sha256) ON DELETE RESTRICT,
    PRIMARY KEY (state_id, sha256)
) STRICT, WITHOUT ROWID;
CREATE INDEX state_assets_by_sum ON state_assets (sha256);

-- Lanes: 0 one frame that somebody looks at, 1 what is on screen, 2 the rest. A job counts its items as they change.
ALTER TABLE jobs ADD COLUMN total INTEGER NOT NULL DEFAULT 0;
ALTER TABLE jobs ADD COLUMN done INTEGER NOT NULL DEFAULT 0;
ALTER TABLE jobs ADD COLUMN failed INTEGER NOT NULL DEFAULT 0;
ALTER TABLE jobs ADD COLUMN running INTEGER NOT NULL DEFAULT 0;
ALTER TABLE job_items ADD COLUMN lane INTEGER NOT NULL DEFAULT 2 CHECK (lane IN (0, 1, 2));
UPDATE jobs SET
    total = (SELECT count(*) FROM job_items i WHERE i.job_id = jobs.id),
    done = (SELECT count(*) FROM job_items i WHERE i.job_id = jobs.id AND i.state = 'done'),
    failed = (SELECT count(*) FROM job_items i WHERE i.job_id = jobs.id AND i.state = 'failed'),
    running = (SELECT count(*) FROM job_items i WHERE i.job_id = jobs.id AND i.state = 'running');
CREATE INDEX jobs_by_shoot ON jobs (shoot_id, id);
CREATE INDEX job_items_waiting ON job_items (job_id, suspect, lane, id) WHERE state = 'waiting';
CREATE INDEX findings_by_content ON findings (sha256, made_at);
CREATE INDEX refusals_by_shoot ON refusals (shoot_id, id);
CREATE TRIGGER items_added AFTER INSERT ON job_items BEGIN
    UPDATE jobs SET total = total + 1, done = done + (new.state = 'done'), failed = failed + (new.state = 'failed'),
        running = running + (new.state = 'running') WHERE id = new.job_id;
END;
CREATE TRIGGER items_changed AFTER UPDATE OF state ON job_items WHEN old.state <> new.state BEGIN
    UPDATE jobs SET done = done + (new.state = 'done') - (old.state = 'done'),
        failed = failed + (new.state = 'failed') - (old.state = 'failed'),
        running = running + (new.state = 'running') - (old.state = 'running') WHERE id = new.job_id;
END;
CREATE TRIGGER items_removed AFTER DELETE ON job_items BEGIN
    UPDATE jobs SET total = total - 1, done = done - (old.state = 'done'), failed = failed - (old.state = 'failed'),
        running = running - (old.state = 'running') WHERE id = old.job_id;
END;
