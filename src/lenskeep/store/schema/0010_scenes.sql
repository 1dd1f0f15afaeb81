-- Scenes as they are found and mended by hand. `placed` says how a frame came into its scene: 0 not yet, 1 found, 2 by
-- hand; what is by hand stays when scenes are found again. Frames of one burst share its number within the shoot, 0 for a
-- frame alone; the best of each stands for it.
ALTER TABLE frames ADD COLUMN placed INTEGER NOT NULL DEFAULT 0 CHECK (placed IN (0, 1, 2));
ALTER TABLE frames ADD COLUMN burst INTEGER NOT NULL DEFAULT 0;
ALTER TABLE frames ADD COLUMN burst_best INTEGER NOT NULL DEFAULT 0 CHECK (burst_best IN (0, 1));
ALTER TABLE scenes ADD COLUMN by_hand INTEGER NOT NULL DEFAULT 0 CHECK (by_hand IN (0, 1));
UPDATE frames SET placed = 1 WHERE found_by <> '';
CREATE INDEX frames_of_burst ON frames (shoot_id, burst) WHERE burst > 0;
-- What a picture's surroundings look like, and how sharp its subject is (log2), as found together with its masks.
ALTER TABLE findings ADD COLUMN signature BLOB;
ALTER TABLE findings ADD COLUMN sharp REAL;
DROP TRIGGER frames_touched;
CREATE TRIGGER frames_touched AFTER UPDATE OF scene_id, state, problem, render_problem, changed, accepted, found_by,
    trust, doubt, reason, wanted_key, result_key, missing, base, rating, rejected, burst, burst_best ON frames BEGIN
    UPDATE counters SET n = n + 1 WHERE name = 'frames';
    UPDATE frames SET touched = (SELECT n FROM counters WHERE name = 'frames') WHERE id = new.id;
END;
-- Frames that come or go are noticed by whoever chooses among a scene's frames.
DROP TRIGGER standings_moved;
CREATE TRIGGER standings_moved AFTER UPDATE OF scene_id, state, render_problem, changed, accepted, found_by, found_at,
    doubt, wanted_key, result_key, missing ON frames BEGIN
    UPDATE standings SET frames = frames - 1, found = found - old.found, failed = failed - old.broken,
        finished = finished - old.finished, stale = stale - old.stale, doubtful = doubtful - old.doubtful,
        changed = changed - old.changed, finds = finds + (new.scene_id <> old.scene_id) WHERE scene_id = old.scene_id;
    UPDATE standings SET frames = frames + 1, found = found + new.found, failed = failed + new.broken,
        finished = finished + new.finished, stale = stale + new.stale, doubtful = doubtful + new.doubtful,
        changed = changed + new.changed, 
        finds = finds + (new.found_at <> old.found_at OR new.state <> old.state OR new.scene_id <> old.scene_id)
        WHERE scene_id = new.scene_id;
END;
