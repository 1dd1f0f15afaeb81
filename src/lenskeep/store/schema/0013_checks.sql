-- Which picture of a frame was looked at in the check, when, and what was done: seen, accepted, corrected. Another picture
-- is to be looked at again.
ALTER TABLE frames ADD COLUMN checked_key TEXT NOT NULL DEFAULT '';
ALTER TABLE frames ADD COLUMN checked_at TEXT NOT NULL DEFAULT '';
ALTER TABLE frames ADD COLUMN checked_how TEXT NOT NULL DEFAULT '';
ALTER TABLE frames ADD COLUMN in_question INTEGER NOT NULL GENERATED ALWAYS AS (
    rejected = 0 AND (doubtful = 1 OR warned = 1 OR render_problem <> '')
    AND checked_key <> CASE WHEN wanted_key = '' THEN 'as it came' ELSE wanted_key END) VIRTUAL;
CREATE INDEX frames_in_question ON frames (shoot_id) WHERE in_question = 1;
