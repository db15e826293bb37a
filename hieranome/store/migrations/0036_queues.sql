-- Queues, and their states in order; each state but the first is a tag.
CREATE TABLE queues (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE,
    of TEXT NOT NULL CHECK (of IN ('bucket', 'tag', 'tray')),
    target TEXT NOT NULL
) STRICT;
CREATE TABLE queue_states (
    queue INTEGER NOT NULL REFERENCES queues (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    tag INTEGER REFERENCES tags (id),
    PRIMARY KEY (queue, position)
) STRICT, WITHOUT ROWID;
CREATE INDEX queue_states_by_tag ON queue_states (tag);

-- Since when a message carries a tag (Unix seconds, 0: not known).
ALTER TABLE tagged ADD COLUMN since INTEGER NOT NULL DEFAULT 0;
