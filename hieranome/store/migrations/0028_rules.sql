-- Rules of the owner's. One that was removed keeps its row, since what it did is told by it.
CREATE TABLE rules (
    id INTEGER PRIMARY KEY,
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    enabled INTEGER NOT NULL,
    runs TEXT NOT NULL CHECK (runs IN ('arrives', 'ages')),
    days INTEGER NOT NULL,
    counted TEXT NOT NULL CHECK (counted IN ('came', 'thread')),
    last_of_day INTEGER NOT NULL,
    line TEXT NOT NULL,
    excepted TEXT NOT NULL,
    actions TEXT NOT NULL,
    made_at INTEGER NOT NULL,
    removed INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX rules_by_position ON rules (position, id) WHERE removed = 0;

-- Which messages a rule took: where it put each (empty where it did not), what was stronger where it wanted to and did
-- not, the step it was part of (null as mail arrives), whether that was undone.
CREATE TABLE rule_hits (
    rule INTEGER NOT NULL REFERENCES rules (id),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    at INTEGER NOT NULL,
    put TEXT NOT NULL,
    lost_to TEXT NOT NULL,
    step INTEGER REFERENCES steps (id),
    undone INTEGER NOT NULL DEFAULT 0,
    PRIMARY KEY (rule, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX rule_hits_by_message ON rule_hits (message);
CREATE INDEX rule_hits_by_step ON rule_hits (step) WHERE step IS NOT NULL;

-- Copies that rules sent on.
CREATE TABLE forwarded (
    rule INTEGER NOT NULL REFERENCES rules (id),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    address TEXT NOT NULL,
    at INTEGER NOT NULL,
    PRIMARY KEY (rule, message, address)
) STRICT, WITHOUT ROWID;
CREATE INDEX forwarded_by_time ON forwarded (at);

-- Messages that stand in no edition, by a rule.
CREATE TABLE no_edition (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    step INTEGER REFERENCES steps (id)
) STRICT;
CREATE INDEX no_edition_by_step ON no_edition (step) WHERE step IS NOT NULL;
