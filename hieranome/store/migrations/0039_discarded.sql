-- Drafts the owner discarded: whole, until they are too old, so that undoing the step brings them back.
CREATE TABLE discarded (
    draft INTEGER PRIMARY KEY REFERENCES drafts (id) ON DELETE CASCADE,
    step INTEGER NOT NULL REFERENCES steps (id) ON DELETE CASCADE
) STRICT;
CREATE INDEX discarded_by_step ON discarded (step);
