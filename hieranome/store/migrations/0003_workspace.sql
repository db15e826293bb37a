-- How many messages a bucket may hold before it asks to be looked at (0: any), how often it wants to be
-- looked at ('daily', 'weekly' or never), when it last was, and whether the owner made it.
ALTER TABLE places ADD COLUMN notice INTEGER NOT NULL DEFAULT 0;
ALTER TABLE places ADD COLUMN rhythm TEXT NOT NULL DEFAULT '';
ALTER TABLE places ADD COLUMN looked_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE places ADD COLUMN own INTEGER NOT NULL DEFAULT 0;

UPDATE places SET rhythm = 'daily' WHERE name = 'shelf';
INSERT INTO places (name, title, band, important) VALUES ('drafts', 'Drafts', -1, 0);

-- Unread first is two seeks in one index; without it, the two are merged.
DROP INDEX messages_by_score;
DROP INDEX messages_by_time;
CREATE INDEX messages_by_score ON messages (place, seen, score DESC, id DESC);
CREATE INDEX messages_by_time ON messages (place, seen, time DESC, id DESC);
-- What a search walks, newest first; it holds every small thing a search may ask for but scores.
CREATE INDEX messages_by_when ON messages (time DESC, id DESC, place, seen, answered, flagged, attachments, size);

-- The words of a message by where they stand; spaced() parts scripts that write without spaces.
DROP TRIGGER words_gone;
DROP TABLE words_index;
ALTER TABLE words RENAME TO words_before;
CREATE TABLE words (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    subject TEXT NOT NULL,
    sender TEXT NOT NULL,
    recipients TEXT NOT NULL,
    list TEXT NOT NULL,
    body TEXT NOT NULL
) STRICT;
INSERT INTO words
SELECT w.message, spaced(w.subject), spaced(trim(m.sender_name || ' ' || m.sender_address)),
    spaced(trim(substr(w.people, 1 + length(trim(m.sender_name || ' ' || m.sender_address))))),
    m.list_id, spaced(w.body)
FROM words_before AS w JOIN messages AS m ON m.id = w.message;
DROP TABLE words_before;
CREATE VIRTUAL TABLE words_index USING fts5 (
    subject, sender, recipients, list, body,
    content = 'words', content_rowid = 'message', tokenize = 'unicode61 remove_diacritics 2'
);
INSERT INTO words_index (words_index) VALUES ('rebuild');
CREATE TRIGGER words_gone AFTER DELETE ON words BEGIN
    INSERT INTO words_index (words_index, rowid, subject, sender, recipients, list, body)
    VALUES ('delete', OLD.message, OLD.subject, OLD.sender, OLD.recipients, OLD.list, OLD.body);
END;

-- Marks set by hand (read, flagged), so that the step that set them can be undone.
CREATE TABLE marks (
    step INTEGER NOT NULL REFERENCES steps (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    mark TEXT NOT NULL CHECK (mark IN ('seen', 'flagged')),
    wanted INTEGER NOT NULL,
    PRIMARY KEY (step, message, mark)
) STRICT, WITHOUT ROWID;

CREATE INDEX moves_by_message ON moves (message, step);

CREATE TABLE searches (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    line TEXT NOT NULL,
    at INTEGER NOT NULL
) STRICT;

-- Senders whose remote pictures are always fetched.
CREATE TABLE pictured (
    address TEXT PRIMARY KEY,
    at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
