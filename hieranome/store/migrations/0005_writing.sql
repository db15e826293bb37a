-- Who the owner writes as: an address with a name and a signature, and the mailbox that hands its mail in.
CREATE TABLE identities (
    address TEXT PRIMARY KEY,
    account INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    signature TEXT NOT NULL DEFAULT ''
) STRICT;

-- What the owner writes, from the first letter to the copy in Sent. state: 'draft', 'waiting' (in the outbox until
-- due_at), 'sending', 'handing' (the bytes are under way), 'sent', 'unsure' (the connection broke while they were).
-- message_id and raw are fixed when it is put into the outbox. filed: whether its copy is in Sent on the server.
CREATE TABLE letters (
    id INTEGER PRIMARY KEY,
    sender TEXT NOT NULL,
    recipients TEXT NOT NULL DEFAULT '',
    copies TEXT NOT NULL DEFAULT '',
    blind TEXT NOT NULL DEFAULT '',
    subject TEXT NOT NULL DEFAULT '',
    body TEXT NOT NULL DEFAULT '',
    kind TEXT NOT NULL CHECK (kind IN ('new', 'reply', 'reply_all', 'forward', 'answer')),
    answers INTEGER REFERENCES messages (id) ON DELETE SET NULL,
    in_reply_to TEXT NOT NULL DEFAULT '',
    mentions TEXT NOT NULL DEFAULT '',
    calendar TEXT NOT NULL DEFAULT '',
    changed_at INTEGER NOT NULL,
    state TEXT NOT NULL DEFAULT 'draft'
        CHECK (state IN ('draft', 'waiting', 'sending', 'handing', 'sent', 'unsure')),
    due_at INTEGER NOT NULL DEFAULT 0,
    tries INTEGER NOT NULL DEFAULT 0,
    error TEXT NOT NULL DEFAULT '',
    message_id TEXT NOT NULL DEFAULT '',
    raw BLOB,
    filed INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE INDEX letters_by_state ON letters (state, due_at);

CREATE TABLE enclosures (
    id INTEGER PRIMARY KEY,
    letter INTEGER NOT NULL REFERENCES letters (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    media_type TEXT NOT NULL,
    content BLOB NOT NULL
) STRICT;
CREATE INDEX enclosures_by_letter ON enclosures (letter);
