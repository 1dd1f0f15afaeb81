-- How many frames of a scene are how far, kept with every change of a frame, so that no page counts them. `finds` grows
-- with every frame on which masks were found or lost: what was chosen by them is chosen anew.
ALTER TABLE frames ADD COLUMN found INTEGER NOT NULL GENERATED ALWAYS AS (state = 'ready' AND found_by <> '') VIRTUAL;
ALTER TABLE frames ADD COLUMN broken INTEGER NOT NULL GENERATED ALWAYS AS (state = 'failed' OR render_problem <> '') VIRTUAL;
ALTER TABLE frames ADD COLUMN finished INTEGER NOT NULL GENERATED ALWAYS AS (
    state = 'ready' AND found_by <> '' AND result_key <> '' AND result_key = wanted_key) VIRTUAL;
ALTER TABLE frames ADD COLUMN stale INTEGER NOT NULL GENERATED ALWAYS AS (
    state = 'ready' AND found_by <> '' AND wanted_key <> '' AND result_key <> wanted_key) VIRTUAL;
CREATE INDEX frames_found ON frames (shoot_id, id) WHERE found = 1;
CREATE INDEX frames_raw ON frames (shoot_id) WHERE raw_base <> '';
CREATE INDEX frames_by_side ON frames (shoot_id, max(width, height));

CREATE TABLE standings (
    scene_id INTEGER PRIMARY KEY REFERENCES scenes (id) ON DELETE CASCADE,
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    frames INTEGER NOT NULL DEFAULT 0,
    found INTEGER NOT NULL DEFAULT 0,
    failed INTEGER NOT NULL DEFAULT 0,
    finished INTEGER NOT NULL DEFAULT 0,
    stale INTEGER NOT NULL DEFAULT 0,
    doubtful INTEGER NOT NULL DEFAULT 0,
    changed INTEGER NOT NULL DEFAULT 0,
    finds INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX standings_of_shoot ON standings (shoot_id);
INSERT INTO standings (scene_id, shoot_id, frames, found, failed, finished, stale, doubtful, changed)
    SELECT s.id, s.shoot_id, count(f.id), coalesce(sum(f.found), 0), coalesce(sum(f.broken), 0),
        coalesce(sum(f.finished), 0), coalesce(sum(f.stale), 0), coalesce(sum(f.doubtful), 0),
        coalesce(sum(f.changed), 0)
    FROM scenes s LEFT JOIN frames f ON f.scene_id = s.id GROUP BY s.id;

CREATE TRIGGER standings_begun AFTER INSERT ON scenes BEGIN
    INSERT INTO standings (scene_id, shoot_id) VALUES (new.id, new.shoot_id);
END;
CREATE TRIGGER standings_more AFTER INSERT ON frames BEGIN
    UPDATE standings SET frames = frames + 1, found = found + new.found, failed = failed + new.broken,
        finished = finished + new.finished, stale = stale + new.stale, doubtful = doubtful + new.doubtful,
        changed = changed + new.changed, finds = finds + 1 WHERE scene_id = new.scene_id;
END;
CREATE TRIGGER standings_fewer AFTER DELETE ON frames BEGIN
    UPDATE standings SET frames = frames - 1, found = found - old.found, failed = failed - old.broken,
        finished = finished - old.finished, stale = stale - old.stale, doubtful = doubtful - old.doubtful,
        changed = changed - old.changed, finds = finds + 1 WHERE scene_id = old.scene_id;
END;
CREATE TRIGGER standings_moved AFTER UPDATE OF scene_id, state, render_problem, changed, accepted, found_by, found_at,
    doubt, wanted_key, result_key, missing ON frames BEGIN
    UPDATE standings SET frames = frames - 1, found = found - old.found, failed = failed - old.broken,
        finished = finished - old.finished, stale = stale - old.stale, doubtful = doubtful - old.doubtful,
        changed = changed - old.changed WHERE scene_id = old.scene_id;
    UPDATE standings SET frames = frames + 1, found = found + new.found, failed = failed + new.broken,
        finished = finished + new.finished, stale = stale + new.stale, doubtful = doubtful + new.doubtful,
        changed = changed + new.changed, finds = finds + (new.found_at <> old.found_at OR new.state <> old.state)
        WHERE scene_id = new.scene_id;
END;
