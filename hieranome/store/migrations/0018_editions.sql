-- Edition plans. days are bits (Monday the lowest), times HH:MM; mail older than since is in none of its editions;
-- upto is when its latest edition was due (or passed without mail). A plan that was removed keeps its editions.
CREATE TABLE plans (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    enabled INTEGER NOT NULL,
    buckets TEXT NOT NULL,
    sources TEXT NOT NULL,
    search TEXT NOT NULL,
    days INTEGER NOT NULL,
    times TEXT NOT NULL,
    zone TEXT NOT NULL,
    grouped TEXT NOT NULL,
    length TEXT NOT NULL,
    delivered INTEGER NOT NULL,
    since INTEGER NOT NULL,
    upto INTEGER NOT NULL,
    removed INTEGER NOT NULL DEFAULT 0
) STRICT;

-- Editions as they were compiled. message is the one that was put on the Desk, where that was wanted; put what became of
-- it on the server: '' nothing is wanted there, 'wanted', 'begun' (it may stand there), 'done'.
CREATE TABLE editions (
    id INTEGER PRIMARY KEY,
    plan INTEGER NOT NULL REFERENCES plans (id),
    due INTEGER NOT NULL,
    made_at INTEGER NOT NULL,
    name TEXT NOT NULL,
    content TEXT NOT NULL,
    messages INTEGER NOT NULL,
    read_at INTEGER NOT NULL DEFAULT 0,
    message INTEGER REFERENCES messages (id),
    put TEXT NOT NULL DEFAULT '',
    UNIQUE (plan, due)
) STRICT;

CREATE TABLE edition_items (
    plan INTEGER NOT NULL REFERENCES plans (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    edition INTEGER NOT NULL REFERENCES editions (id),
    PRIMARY KEY (plan, message)
) STRICT, WITHOUT ROWID;

-- Lists and senders that stand in no edition, each by the step that said so.
CREATE TABLE left_out (
    source TEXT NOT NULL,
    step INTEGER NOT NULL REFERENCES steps (id),
    PRIMARY KEY (source, step)
) STRICT, WITHOUT ROWID;
