-- Routines: what the owner does with mail in a row. `actions` is a list of {"verb", "target"}.
CREATE TABLE routines (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE,
    key TEXT NOT NULL,
    actions TEXT NOT NULL,
    changed_at INTEGER NOT NULL
) STRICT;

-- Drafts that a step or a rule began, as they were then: an undone step takes those along that nobody wrote on.
CREATE TABLE laid (
    draft INTEGER PRIMARY KEY REFERENCES drafts (id) ON DELETE CASCADE,
    step INTEGER REFERENCES steps (id),
    rule INTEGER REFERENCES rules (id),
    at INTEGER NOT NULL,
    said TEXT NOT NULL
) STRICT;
CREATE INDEX laid_by_step ON laid (step);
CREATE INDEX laid_by_time ON laid (at) WHERE rule IS NOT NULL;
