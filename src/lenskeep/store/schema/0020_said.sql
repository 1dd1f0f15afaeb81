-- What a shoot's delivered files say of themselves (author, rights, title, places), as JSON.
ALTER TABLE shoots ADD COLUMN said TEXT NOT NULL DEFAULT '{}';
