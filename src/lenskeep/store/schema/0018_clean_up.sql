-- What a frame's own marks make of its picture, by their hash; "" without any. Pictures kept in memory depend on it.
ALTER TABLE frames ADD COLUMN cleaned TEXT NOT NULL DEFAULT '';
