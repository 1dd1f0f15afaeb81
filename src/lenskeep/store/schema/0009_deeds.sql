-- What was done to frames by hand, many at once or one, so that it can be undone in one step: of each frame the columns
-- that changed, as they were before and after (JSON).
ALTER TABLE frames ADD COLUMN rating INTEGER NOT NULL DEFAULT 0 CHECK (rating BETWEEN 0 AND 5);
ALTER TABLE frames ADD COLUMN rejected INTEGER NOT NULL DEFAULT 0 CHECK (rejected IN (0, 1));
CREATE INDEX frames_rejected ON frames (shoot_id, place, id) WHERE rejected = 1;
CREATE TABLE deeds (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    shoot_id INTEGER NOT NULL REFERENCES shoots (id) ON DELETE CASCADE,
    words TEXT NOT NULL,
    done_at TEXT NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0 CHECK (undone IN (0, 1))
) STRICT;
CREATE INDEX deeds_of_shoot ON deeds (shoot_id, undone, id);
CREATE TABLE deed_frames (
    deed_id INTEGER NOT NULL REFERENCES deeds (id) ON DELETE CASCADE,
    frame_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    before TEXT NOT NULL,
    after TEXT NOT NULL,
    PRIMARY KEY (deed_id, frame_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX deed_frames_by_frame ON deed_frames (frame_id);
DROP TRIGGER frames_touched;
CREATE TRIGGER frames_touched AFTER UPDATE OF scene_id, state, problem, render_problem, changed, accepted, found_by,
    trust, doubt, reason, wanted_key, result_key, missing, base, rating, rejected ON frames BEGIN
    UPDATE counters SET n = n + 1 WHERE name = 'frames';
    UPDATE frames SET touched = (SELECT n FROM counters WHERE name = 'frames') WHERE id = new.id;
END;
