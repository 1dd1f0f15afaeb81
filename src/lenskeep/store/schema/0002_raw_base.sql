-- How the raw files of a shoot become pictures, and how each frame did; '' for frames that are no raw files.
ALTER TABLE shoots ADD COLUMN raw_base TEXT NOT NULL DEFAULT 'soft' CHECK (raw_base IN ('soft', 'neutral'));
ALTER TABLE frames ADD COLUMN base TEXT NOT NULL DEFAULT '' CHECK (base IN ('', 'soft', 'neutral'));
