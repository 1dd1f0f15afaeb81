-- Ways of delivery that somebody named: the options of a hand-over, without the frames that leave and where to.
CREATE TABLE ways (
    name TEXT PRIMARY KEY,
    options TEXT NOT NULL,
    at TEXT NOT NULL
);
