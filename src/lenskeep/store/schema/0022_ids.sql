-- The newest id that rows of a table ever had, so that what is removed never lends its own to something else: jobs keep
-- recipes' versions and scenes by theirs, pages and folders keep frames, shoots and jobs.
INSERT INTO counters VALUES
    ('id of shoots', 0), ('id of scenes', 0), ('id of frames', 0), ('id of jobs', 0), ('id of recipes', 0),
    ('id of recipe_versions', 0);
