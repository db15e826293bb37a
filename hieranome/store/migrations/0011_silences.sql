-- Mail the owner looked past and left where it was put: how much that says, as it was weighed then. "after" is the
-- newest lesson there was, by which lessons and silences keep one order; "beside" what history said of the sender.
CREATE TABLE silences (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    message INTEGER NOT NULL UNIQUE REFERENCES messages (id),
    after INTEGER NOT NULL,
    at INTEGER NOT NULL,
    place TEXT NOT NULL,
    weight REAL NOT NULL,
    sure INTEGER NOT NULL,
    beside REAL NOT NULL
) STRICT;
CREATE INDEX silences_by_order ON silences (after, id);
-- The engine is another than the one that scored what stands: its scores are written anew.
INSERT OR IGNORE INTO settings (key, value) SELECT 'scored_by', '"before"' WHERE EXISTS (SELECT 1 FROM messages);
