-- Dust on a camera's sensor: places as shares of the sensor's width and height, the radius as a share of its long side. What was
-- found is confirmed or dropped once, by hand, and stays so for every shoot of the camera. shows: frames where it shows most, JSON.
CREATE TABLE dust (
    id INTEGER PRIMARY KEY,
    camera TEXT NOT NULL,
    x REAL NOT NULL,
    y REAL NOT NULL,
    radius REAL NOT NULL,
    state TEXT NOT NULL DEFAULT 'found' CHECK (state IN ('found', 'confirmed', 'dropped')),
    by_hand INTEGER NOT NULL DEFAULT 0,
    evidence REAL NOT NULL DEFAULT 0,
    seen REAL NOT NULL DEFAULT 0,
    calm REAL NOT NULL DEFAULT 0,
    shoot_id INTEGER REFERENCES shoots (id) ON DELETE SET NULL,
    shows TEXT NOT NULL DEFAULT '[]',
    at TEXT NOT NULL
);
CREATE INDEX dust_of_camera ON dust (camera);
-- Which camera a shoot's frames came from and which way up each was stored; NULL until it is looked for.
ALTER TABLE frames ADD COLUMN camera TEXT;
ALTER TABLE frames ADD COLUMN orientation INTEGER;
