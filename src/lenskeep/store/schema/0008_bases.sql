-- What a frame changes of its light before every step, as JSON, '' where it changes nothing: lists mark it, and pictures
-- that are kept in memory depend on it. The whole of what a frame changes holds it too (`override`).
ALTER TABLE frames ADD COLUMN base TEXT NOT NULL DEFAULT '';
DROP TRIGGER frames_touched;
CREATE TRIGGER frames_touched AFTER UPDATE OF scene_id, state, problem, render_problem, changed, accepted, found_by,
    trust, doubt, reason, wanted_key, result_key, missing, base ON frames BEGIN
    UPDATE counters SET n = n + 1 WHERE name = 'frames';
    UPDATE frames SET touched = (SELECT n FROM counters WHERE name = 'frames') WHERE id = new.id;
END;
