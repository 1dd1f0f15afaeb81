-- States of a Bench that were given a name: kept whole, whatever is done and undone afterwards, with the assets they use.
CREATE TABLE named_states (
    id INTEGER PRIMARY KEY,
    scene_id INTEGER NOT NULL REFERENCES scenes (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    body TEXT NOT NULL,
    named_at TEXT NOT NULL,
    UNIQUE (scene_id, name)
) STRICT;
CREATE TABLE named_assets (
    named_id INTEGER NOT NULL REFERENCES named_states (id) ON DELETE CASCADE,
    sha256 TEXT NOT NULL REFERENCES assets (sha256) ON DELETE RESTRICT,
    PRIMARY KEY (named_id, sha256)
) STRICT, WITHOUT ROWID;
CREATE INDEX named_assets_by_sum ON named_assets (sha256);
