-- The book holds effects beside recipes: what a step does, without its region, kept as a recipe of one step. Both lie in sets
-- and have tags, as words between spaces.
ALTER TABLE recipes ADD COLUMN kind TEXT NOT NULL DEFAULT 'recipe' CHECK (kind IN ('recipe', 'effect'));
ALTER TABLE recipes ADD COLUMN shelf TEXT NOT NULL DEFAULT '';
ALTER TABLE recipes ADD COLUMN tags TEXT NOT NULL DEFAULT '';
