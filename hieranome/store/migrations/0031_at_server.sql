-- Rules that also run at the server of a mailbox: where its scripts are kept (RFC 5804), which rules (JSON), the text that
-- was put there, the owner's own script that runs beside it (empty: none), what was found there last, and when.
CREATE TABLE scripts (
    account INTEGER PRIMARY KEY REFERENCES accounts (id) ON DELETE CASCADE,
    host TEXT NOT NULL,
    port INTEGER NOT NULL,
    security TEXT NOT NULL CHECK (security IN ('tls', 'starttls', 'plain')),
    pin TEXT NOT NULL,
    rules TEXT NOT NULL,
    text TEXT NOT NULL,
    beside TEXT NOT NULL,
    state TEXT NOT NULL CHECK (state IN ('there', 'changed', 'gone', 'resting')),
    looked_at INTEGER NOT NULL
) STRICT;
