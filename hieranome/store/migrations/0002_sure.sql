-- What a lesson changed when it was given: its message's importance before and after, and how many kin it had.
ALTER TABLE lessons ADD COLUMN before REAL NOT NULL DEFAULT 0;
ALTER TABLE lessons ADD COLUMN after REAL NOT NULL DEFAULT 0;
ALTER TABLE lessons ADD COLUMN kin INTEGER NOT NULL DEFAULT 0;

-- How long answers took, as far as it is known: how many, and minutes in all.
ALTER TABLE sums ADD COLUMN timed INTEGER NOT NULL DEFAULT 0;
ALTER TABLE sums ADD COLUMN waited INTEGER NOT NULL DEFAULT 0;

CREATE TABLE vouched (
    kind TEXT NOT NULL CHECK (kind IN ('address', 'domain')),
    key TEXT NOT NULL,
    name TEXT NOT NULL,
    at INTEGER NOT NULL,
    PRIMARY KEY (kind, key)
) STRICT, WITHOUT ROWID;

-- The servers that checked where mail came from, as named in it, and how much each checked.
CREATE TABLE checkers (
    authserv_id TEXT PRIMARY KEY,
    messages INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
