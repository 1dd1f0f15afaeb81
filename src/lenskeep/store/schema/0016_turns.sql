-- How many quarter turns clockwise a photograph was turned by hand, after its EXIF orientation. Width and height are those
-- of the picture as it stands then.
ALTER TABLE frames ADD COLUMN turn INTEGER NOT NULL DEFAULT 0;
