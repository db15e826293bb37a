CREATE TABLE migrations (
    number INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    applied_at INTEGER NOT NULL
) STRICT;

CREATE TABLE settings (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;

-- Every place a message can stand in. band >= 0: shown in the flow band, in that order.
CREATE TABLE places (
    name TEXT PRIMARY KEY,
    title TEXT NOT NULL,
    band INTEGER NOT NULL DEFAULT -1,
    important INTEGER NOT NULL DEFAULT 0,
    total INTEGER NOT NULL DEFAULT 0,
    unread INTEGER NOT NULL DEFAULT 0
) STRICT;

INSERT INTO places (name, title, band, important) VALUES
    ('desk', 'Desk', 0, 1),
    ('undecided', 'Your call', 1, 1),
    ('shelf', 'Shelf', 2, 0),
    ('digest', 'Digest', 3, 0),
    ('drain', 'Drain', 4, 0),
    ('sent', 'Sent', -1, 0),
    ('archive', 'Archive', -1, 0),
    ('trash', 'Trash', -1, 0);

CREATE TABLE threads (
    id INTEGER PRIMARY KEY,
    mine INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE messages (
    id INTEGER PRIMARY KEY,
    digest BLOB NOT NULL UNIQUE,
    message_id TEXT NOT NULL,
    thread INTEGER NOT NULL REFERENCES threads (id),
    bare_subject TEXT NOT NULL,
    time INTEGER NOT NULL,
    sender_address TEXT NOT NULL,
    sender_name TEXT NOT NULL,
    sender_domain TEXT NOT NULL,
    list_id TEXT NOT NULL,
    subject TEXT NOT NULL,
    snippet TEXT NOT NULL,
    size INTEGER NOT NULL,
    attachments INTEGER NOT NULL,
    readable INTEGER NOT NULL,
    seen INTEGER NOT NULL,
    answered INTEGER NOT NULL,
    flagged INTEGER NOT NULL,
    place TEXT NOT NULL REFERENCES places (name),
    decided_by TEXT NOT NULL,
    score REAL NOT NULL,
    low_edge REAL NOT NULL,
    high_edge REAL NOT NULL,
    certainty REAL NOT NULL,
    -- the low bucket it would go to, were it not important
    likely TEXT NOT NULL,
    ask_value REAL NOT NULL,
    -- 1 when its arrival is part of the sums of its correspondent
    counted INTEGER NOT NULL
) STRICT;

CREATE INDEX messages_by_score ON messages (place, score DESC, id DESC);
CREATE INDEX messages_by_time ON messages (place, time DESC, id DESC);
CREATE INDEX messages_by_thread ON messages (thread, time);
CREATE INDEX messages_by_message_id ON messages (message_id);
CREATE INDEX messages_by_subject ON messages (bare_subject, time);
CREATE INDEX messages_by_sender ON messages (sender_address);
CREATE INDEX messages_by_list ON messages (list_id) WHERE list_id <> '';

CREATE TRIGGER messages_counted AFTER INSERT ON messages BEGIN
    UPDATE places SET total = total + 1, unread = unread + 1 - NEW.seen WHERE name = NEW.place;
END;

CREATE TRIGGER messages_moved AFTER UPDATE OF place, seen ON messages
WHEN OLD.place <> NEW.place OR OLD.seen <> NEW.seen BEGIN
    UPDATE places SET total = total - 1, unread = unread - 1 + OLD.seen WHERE name = OLD.place;
    UPDATE places SET total = total + 1, unread = unread + 1 - NEW.seen WHERE name = NEW.place;
END;

CREATE TRIGGER messages_gone AFTER DELETE ON messages BEGIN
    UPDATE places SET total = total - 1, unread = unread - 1 + OLD.seen WHERE name = OLD.place;
END;

CREATE TABLE raw (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    zlib BLOB NOT NULL
) STRICT;

CREATE TABLE vectors (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    features BLOB NOT NULL
) STRICT;

CREATE TABLE words (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    subject TEXT NOT NULL,
    people TEXT NOT NULL,
    body TEXT NOT NULL
) STRICT;

CREATE VIRTUAL TABLE words_index USING fts5 (
    subject, people, body,
    content = 'words', content_rowid = 'message', tokenize = 'unicode61 remove_diacritics 2'
);

-- Rows are put into the index by the application, a batch at a time: a trigger would make FTS5 flush on every row.
CREATE TRIGGER words_gone AFTER DELETE ON words BEGIN
    INSERT INTO words_index (words_index, rowid, subject, people, body)
    VALUES ('delete', OLD.message, OLD.subject, OLD.people, OLD.body);
END;

-- Ids named in References and In-Reply-To, so that a late parent finds its children.
CREATE TABLE mentions (
    message_id TEXT NOT NULL,
    thread INTEGER NOT NULL REFERENCES threads (id),
    PRIMARY KEY (message_id, thread)
) STRICT, WITHOUT ROWID;

-- Messages the owner answered, by the In-Reply-To of sent mail; the answer may come first.
CREATE TABLE answers (
    message_id TEXT PRIMARY KEY
) STRICT, WITHOUT ROWID;

CREATE TABLE sums (
    key TEXT PRIMARY KEY,
    received INTEGER NOT NULL,
    read INTEGER NOT NULL,
    answered INTEGER NOT NULL,
    written INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

CREATE TABLE steps (
    id INTEGER PRIMARY KEY,
    at INTEGER NOT NULL,
    kind TEXT NOT NULL,
    title TEXT NOT NULL,
    undone_at INTEGER
) STRICT;

CREATE TABLE moves (
    step INTEGER NOT NULL REFERENCES steps (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    origin TEXT NOT NULL REFERENCES places (name),
    origin_decided_by TEXT NOT NULL,
    target TEXT NOT NULL REFERENCES places (name),
    PRIMARY KEY (step, message)
) STRICT, WITHOUT ROWID;

CREATE TABLE lessons (
    id INTEGER PRIMARY KEY,
    step INTEGER NOT NULL REFERENCES steps (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    at INTEGER NOT NULL,
    stood TEXT NOT NULL REFERENCES places (name),
    belongs TEXT NOT NULL REFERENCES places (name),
    reach TEXT NOT NULL,
    key TEXT NOT NULL,
    feature_version INTEGER NOT NULL,
    features BLOB NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE INDEX lessons_by_key ON lessons (reach, key) WHERE undone = 0;
CREATE INDEX lessons_by_message ON lessons (message);
CREATE INDEX lessons_by_step ON lessons (step);

CREATE TABLE imports (
    id INTEGER PRIMARY KEY,
    path TEXT NOT NULL,
    started_at INTEGER NOT NULL,
    finished_at INTEGER,
    state TEXT NOT NULL,
    error TEXT NOT NULL DEFAULT '',
    first_message INTEGER NOT NULL,
    bytes_total INTEGER NOT NULL,
    bytes_done INTEGER NOT NULL DEFAULT 0,
    added INTEGER NOT NULL DEFAULT 0,
    known INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE import_files (
    import INTEGER NOT NULL REFERENCES imports (id),
    path TEXT NOT NULL,
    size INTEGER NOT NULL,
    modified INTEGER NOT NULL,
    done INTEGER NOT NULL,
    PRIMARY KEY (import, path)
) STRICT, WITHOUT ROWID;
