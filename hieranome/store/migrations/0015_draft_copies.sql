-- A draft that goes on from one another program kept: the message it was, which goes to the Trash once ours is sent.
ALTER TABLE drafts ADD COLUMN continues INTEGER REFERENCES messages (id) ON DELETE SET NULL;
CREATE INDEX drafts_by_continued ON drafts (continues) WHERE continues IS NOT NULL;

-- Our drafts as they stand in a mailbox's Drafts, each version a row from before it is put there until it is removed.
-- version is the draft's changed_at then; uid is not known until the server told it.
CREATE TABLE draft_copies (
    id INTEGER PRIMARY KEY,
    draft INTEGER REFERENCES drafts (id) ON DELETE SET NULL,
    folder INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    message_id TEXT NOT NULL UNIQUE,
    validity INTEGER NOT NULL DEFAULT 0,
    uid INTEGER
) STRICT;
CREATE INDEX draft_copies_by_folder ON draft_copies (folder);
CREATE INDEX draft_copies_by_draft ON draft_copies (draft);
