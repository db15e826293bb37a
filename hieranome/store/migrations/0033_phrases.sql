-- Stock text of the owner's, by a short name, with files that go along; and for which messages each was used, by which
-- the next like them is offered it first.
CREATE TABLE phrases (
    id INTEGER PRIMARY KEY,
    short TEXT NOT NULL COLLATE NOCASE UNIQUE,
    text TEXT NOT NULL,
    changed_at INTEGER NOT NULL
) STRICT;
CREATE TABLE phrase_files (
    id INTEGER PRIMARY KEY,
    phrase INTEGER NOT NULL REFERENCES phrases (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    media_type TEXT NOT NULL,
    content BLOB NOT NULL
) STRICT;
CREATE INDEX phrase_files_by_phrase ON phrase_files (phrase);
CREATE TABLE phrase_uses (
    phrase INTEGER NOT NULL REFERENCES phrases (id) ON DELETE CASCADE,
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    at INTEGER NOT NULL,
    PRIMARY KEY (phrase, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX phrase_uses_by_time ON phrase_uses (at);
CREATE INDEX phrase_uses_by_message ON phrase_uses (message);
-- 1 where a phrase was put into the draft: it does not go with a placeholder left.
ALTER TABLE drafts ADD COLUMN phrased INTEGER NOT NULL DEFAULT 0;
