-- What is known of the curve of a shoot's camera, as JSON, '' where it is taken for a usual one; and a picture's exposure in
-- stops (log2 of time x ISO / aperture squared), NULL where its file does not say.
ALTER TABLE shoots ADD COLUMN curve TEXT NOT NULL DEFAULT '';
ALTER TABLE findings ADD COLUMN stops REAL;
