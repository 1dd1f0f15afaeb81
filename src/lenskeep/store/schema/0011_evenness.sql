-- What a frame's untouched picture needs to meet its scene's key frame's: exposure in EV, warmth in mired, tint in
-- thousandths of Duv; how sure that is, what its pairs left unexplained, and which key frame it was held to.
CREATE TABLE evenness (
    frame_id INTEGER PRIMARY KEY REFERENCES frames (id) ON DELETE CASCADE,
    scene_id INTEGER NOT NULL REFERENCES scenes (id) ON DELETE CASCADE,
    key_frame_id INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    ev REAL NOT NULL,
    mired REAL NOT NULL,
    duv REAL NOT NULL,
    sure INTEGER NOT NULL CHECK (sure IN (0, 1)),
    left_ev REAL NOT NULL,
    left_mired REAL NOT NULL,
    left_duv REAL NOT NULL,
    measured_at TEXT NOT NULL
) STRICT;
CREATE INDEX evenness_of_scene ON evenness (scene_id);
CREATE INDEX evenness_by_key ON evenness (key_frame_id);
