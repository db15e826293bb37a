INSERT INTO places (name, title, band, important) VALUES ('junk', 'Junk', -1, 0);

-- Mailboxes on servers. state: 'new' (nothing read yet), 'reading', 'weighing', 'watching'. routing: whether mail is
-- moved on the server as it is placed here; without it, where mail would go is shown and nothing is moved.
CREATE TABLE accounts (
    id INTEGER PRIMARY KEY,
    address TEXT NOT NULL UNIQUE,
    name TEXT NOT NULL,
    user TEXT NOT NULL,
    bearer INTEGER NOT NULL,
    imap_host TEXT NOT NULL,
    imap_port INTEGER NOT NULL,
    imap_security TEXT NOT NULL CHECK (imap_security IN ('tls', 'starttls', 'plain')),
    smtp_host TEXT NOT NULL,
    smtp_port INTEGER NOT NULL,
    smtp_security TEXT NOT NULL CHECK (smtp_security IN ('tls', 'starttls', 'plain')),
    prefix TEXT NOT NULL,
    state TEXT NOT NULL DEFAULT 'new' CHECK (state IN ('new', 'reading', 'weighing', 'watching')),
    paused INTEGER NOT NULL DEFAULT 0,
    routing INTEGER NOT NULL DEFAULT 0,
    error TEXT NOT NULL DEFAULT '',
    first_message INTEGER NOT NULL DEFAULT 0,
    added_at INTEGER NOT NULL,
    synced_at INTEGER NOT NULL DEFAULT 0
) STRICT;

-- The folders of a mailbox. role: 'inbox', 'bucket', 'sent', 'drafts', 'archive', 'junk', 'trash' or 'other'; place is
-- where their mail stands here. validity, uidnext, modseq and messages are what the server said when it was last
-- read to the end; the history is read down from the top: low is the lowest UID read so far (0: all).
CREATE TABLE folders (
    id INTEGER PRIMARY KEY,
    account INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    role TEXT NOT NULL,
    place TEXT NOT NULL REFERENCES places (name),
    present INTEGER NOT NULL DEFAULT 1,
    followed INTEGER NOT NULL DEFAULT 1,
    validity INTEGER NOT NULL DEFAULT 0,
    uidnext INTEGER NOT NULL DEFAULT 0,
    modseq INTEGER NOT NULL DEFAULT 0,
    messages INTEGER NOT NULL DEFAULT 0,
    low INTEGER NOT NULL DEFAULT -1,
    UNIQUE (account, name)
) STRICT;
CREATE INDEX folders_by_place ON folders (place, account);

-- Every copy of a message on a server. uid is NULL once it is gone from its folder, until it is known where to; missing
-- counts the looks that did not find it. news: it was found but not yet thought about; twin: it appeared while another
-- copy stood. goal: the folder it is to be moved to. stage: '' or what was begun of a move ('moving', 'copying',
-- 'copied'), with the target as it was before.
CREATE TABLE copies (
    id INTEGER PRIMARY KEY,
    folder INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    uid INTEGER,
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    seen INTEGER NOT NULL,
    answered INTEGER NOT NULL,
    flagged INTEGER NOT NULL,
    at INTEGER NOT NULL,
    size INTEGER NOT NULL,
    email_id TEXT NOT NULL,
    news INTEGER NOT NULL DEFAULT 0,
    twin INTEGER NOT NULL DEFAULT 0,
    missing INTEGER NOT NULL DEFAULT 0,
    dirty INTEGER NOT NULL DEFAULT 0,
    goal INTEGER REFERENCES folders (id),
    tries INTEGER NOT NULL DEFAULT 0,
    stage TEXT NOT NULL DEFAULT '',
    target INTEGER REFERENCES folders (id),
    target_validity INTEGER NOT NULL DEFAULT 0,
    target_uidnext INTEGER NOT NULL DEFAULT 0,
    target_uid INTEGER NOT NULL DEFAULT 0,
    UNIQUE (folder, uid)
) STRICT;
CREATE INDEX copies_by_message ON copies (message);
CREATE INDEX copies_by_email_id ON copies (email_id) WHERE email_id <> '';
CREATE INDEX copies_to_move ON copies (goal) WHERE goal IS NOT NULL;
CREATE INDEX copies_under_way ON copies (stage) WHERE stage <> '';
CREATE INDEX copies_to_mark ON copies (dirty) WHERE dirty = 1;
CREATE INDEX copies_to_explain ON copies (id) WHERE news = 1 OR uid IS NULL;

-- What moves here moves on the server, where mail is routed: the intent is part of the very change. What stays in the
-- inbox because it is asked about stands in the Desk's folder.
CREATE TRIGGER copies_follow AFTER UPDATE OF place ON messages
WHEN OLD.place <> NEW.place AND NEW.decided_by NOT IN ('history', 'waiting') BEGIN
    UPDATE copies SET tries = 0, goal = (
        SELECT nullif(t.id, copies.folder) FROM folders AS f JOIN folders AS t ON t.account = f.account
        WHERE f.id = copies.folder AND t.place = iif(NEW.place = 'undecided', 'desk', NEW.place) LIMIT 1)
    WHERE message = NEW.id AND uid IS NOT NULL AND folder IN (
        SELECT f.id FROM folders AS f JOIN accounts AS a ON a.id = f.account
        WHERE a.routing = 1
            AND (f.role IN ('inbox', 'bucket') OR f.place = iif(OLD.place = 'undecided', 'desk', OLD.place)));
END;

CREATE TRIGGER copies_marked AFTER UPDATE OF seen, answered, flagged ON messages
WHEN OLD.seen <> NEW.seen OR OLD.answered <> NEW.answered OR OLD.flagged <> NEW.flagged BEGIN
    UPDATE copies SET dirty = (seen <> NEW.seen OR answered <> NEW.answered OR flagged <> NEW.flagged)
    WHERE message = NEW.id AND uid IS NOT NULL;
END;

-- Moves other programs made that are too many to be learned one by one: the owner says whether they are lessons.
CREATE TABLE proposals (
    id INTEGER PRIMARY KEY,
    at INTEGER NOT NULL,
    belongs TEXT NOT NULL REFERENCES places (name),
    answer TEXT NOT NULL DEFAULT '' CHECK (answer IN ('', 'learn', 'leave'))
) STRICT;
CREATE TABLE proposed (
    proposal INTEGER NOT NULL REFERENCES proposals (id) ON DELETE CASCADE,
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    stood TEXT NOT NULL REFERENCES places (name),
    PRIMARY KEY (proposal, message)
) STRICT, WITHOUT ROWID;
