-- What guards found on a frame's finished picture, as JSON [[guard, figure, step, its name], ...], '' where it was not
-- looked at; and its subject's pull: brightness, warmth, detail.
ALTER TABLE frames ADD COLUMN guards TEXT NOT NULL DEFAULT '';
ALTER TABLE frames ADD COLUMN pull TEXT NOT NULL DEFAULT '';
ALTER TABLE frames ADD COLUMN warned INTEGER NOT NULL GENERATED ALWAYS AS (
    guards NOT IN ('', '[]') AND result_key <> '' AND result_key = wanted_key) VIRTUAL;
CREATE INDEX frames_warned ON frames (shoot_id, place, id) WHERE warned = 1;
CREATE INDEX frames_warned_in_scene ON frames (scene_id) WHERE warned = 1;
DROP TRIGGER frames_touched;
CREATE TRIGGER frames_touched AFTER UPDATE OF scene_id, state, problem, render_problem, changed, accepted, found_by,
    trust, doubt, reason, wanted_key, result_key, missing, base, rating, rejected, burst, burst_best, guards ON frames BEGIN
    UPDATE counters SET n = n + 1 WHERE name = 'frames';
    UPDATE frames SET touched = (SELECT n FROM counters WHERE name = 'frames') WHERE id = new.id;
END;
