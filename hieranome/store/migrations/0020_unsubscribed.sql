-- What was asked of senders so that they write no more: by which way, of whom, and what came of it ('asked' until that is
-- known). words are what the sender's server said, as it is told.
CREATE TABLE unsubscribed (
    id INTEGER PRIMARY KEY,
    source TEXT NOT NULL,
    at INTEGER NOT NULL,
    way TEXT NOT NULL,
    target TEXT NOT NULL,
    outcome TEXT NOT NULL DEFAULT 'asked',
    words TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX unsubscribed_by_source ON unsubscribed (source, at);
