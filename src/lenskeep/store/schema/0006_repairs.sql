-- What is known of a frame after its masks were repaired by hand, as JSON ('' where none were); which of its masks are
-- doubtful, as {mask: [trust, [reason, ...]]}; and which masks a scene's look uses: a frame is doubtful for those alone.
ALTER TABLE frames ADD COLUMN own_facts TEXT NOT NULL DEFAULT '';
ALTER TABLE frames ADD COLUMN doubts TEXT NOT NULL DEFAULT '{}';
ALTER TABLE scenes ADD COLUMN uses TEXT NOT NULL DEFAULT 'subject sky';
