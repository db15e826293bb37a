-- Whom the away notice went to: `person` is the address without its tag, in lower case; `failed` says why a server did
-- not take it (empty: it did, or has not been asked yet).
CREATE TABLE away_told (
    id INTEGER PRIMARY KEY,
    person TEXT NOT NULL,
    at INTEGER NOT NULL,
    circle TEXT NOT NULL,
    language TEXT NOT NULL,
    message INTEGER REFERENCES messages (id) ON DELETE SET NULL,
    message_id TEXT NOT NULL,
    failed TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX away_told_by_person ON away_told (person, at);
CREATE INDEX away_told_by_time ON away_told (at);
CREATE INDEX away_told_by_message ON away_told (message);
CREATE INDEX drafts_by_answered ON drafts (answers) WHERE calendar <> '';
CREATE INDEX away_told_by_id ON away_told (message_id);

-- 1 for what is sent in the owner's name by itself: it goes with an empty envelope sender (RFC 5321, section 4.5.5), and
-- no copy of it stands in Sent.
ALTER TABLE drafts ADD COLUMN automatic INTEGER NOT NULL DEFAULT 0;

-- 1 where the away notice is sent by the server of a mailbox, beside the rules that run there.
ALTER TABLE scripts ADD COLUMN away INTEGER NOT NULL DEFAULT 0;
