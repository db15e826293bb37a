-- What the owner says of addresses mail reaches them at: what each is for, and whom it was given to; made_at is 0 unless
-- it was made here.
CREATE TABLE addresses (
    address TEXT PRIMARY KEY,
    purpose TEXT NOT NULL CHECK (purpose IN ('', 'people', 'shops', 'given up')),
    given_to TEXT NOT NULL,
    made_at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- Who writes to each address, and where that mail stands.
CREATE INDEX messages_by_reached ON messages (reached, sender_domain, place, time) WHERE reached <> '';
