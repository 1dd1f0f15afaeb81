-- What is known of a frame after its masks were repaired by hand, as JSON; '' where none were.
ALTER TABLE frames ADD COLUMN own_facts TEXT NOT NULL DEFAULT '';
