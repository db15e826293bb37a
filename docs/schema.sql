-- The store, as all migrations together make it. Made by `make schema`; a test compares it.
-- Tables first, each with its indexes and triggers.

-- Mailboxes on servers: how they are reached, and how far they are read.
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
    synced_at INTEGER NOT NULL DEFAULT 0,
    routed INTEGER NOT NULL DEFAULT 0,
    imap_pin TEXT NOT NULL DEFAULT '',
    smtp_pin TEXT NOT NULL DEFAULT '',
    authorise_url TEXT NOT NULL DEFAULT '',
    token_url TEXT NOT NULL DEFAULT '',
    client_id TEXT NOT NULL DEFAULT '',
    scope TEXT NOT NULL DEFAULT '') STRICT;

-- What the owner said of an address of theirs: what it is for, whom it was given to.
CREATE TABLE addresses (
    address TEXT PRIMARY KEY,
    purpose TEXT NOT NULL CHECK (purpose IN ('', 'people', 'shops', 'given up')),
    given_to TEXT NOT NULL,
    made_at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- Ids of mail that an answer of the owner's was seen to, before that mail itself came.
CREATE TABLE answers (
    message_id TEXT PRIMARY KEY
) STRICT, WITHOUT ROWID;

-- What a step did with things the owner arranges: what each was before and behind it, as JSON.
CREATE TABLE arranged (
    step INTEGER NOT NULL REFERENCES steps (id) ON DELETE CASCADE,
    thing TEXT NOT NULL,
    key TEXT NOT NULL,
    before TEXT NOT NULL,
    behind TEXT NOT NULL,
    PRIMARY KEY (step, thing, key)
) STRICT, WITHOUT ROWID;
CREATE INDEX arranged_by_thing ON arranged (thing, key);

-- Files of drafts.
CREATE TABLE "attachments" (
    id INTEGER PRIMARY KEY,
    draft INTEGER NOT NULL REFERENCES "drafts" (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    media_type TEXT NOT NULL,
    content BLOB NOT NULL
) STRICT;
CREATE INDEX attachments_by_draft ON attachments (draft);

-- Who got an away notice, when, from which circle; or why nobody got one.
CREATE TABLE away_told (
    id INTEGER PRIMARY KEY,
    person TEXT NOT NULL,
    at INTEGER NOT NULL,
    circle TEXT NOT NULL,
    language TEXT NOT NULL,
    message INTEGER REFERENCES messages (id) ON DELETE SET NULL,
    message_id TEXT NOT NULL,
    failed TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX away_told_by_id ON away_told (message_id);
CREATE INDEX away_told_by_message ON away_told (message);
CREATE INDEX away_told_by_person ON away_told (person, at);
CREATE INDEX away_told_by_time ON away_told (at);

-- Servers whose results stand in mail, and in how much of it: offered to be believed.
CREATE TABLE checkers (
    authserv_id TEXT PRIMARY KEY,
    messages INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- Every copy of a message in a folder of a server: the marks last told, where it is to go, and how far that got.
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
    home INTEGER REFERENCES folders (id),
    home_place TEXT,
    home_decided_by TEXT,
    retag INTEGER NOT NULL DEFAULT 0,
    UNIQUE (folder, uid)
) STRICT;
CREATE INDEX copies_by_email_id ON copies (email_id) WHERE email_id <> '';
CREATE INDEX copies_by_message ON copies (message);
CREATE INDEX copies_to_explain ON copies (id) WHERE news = 1 OR uid IS NULL;
CREATE INDEX copies_to_mark ON copies (dirty) WHERE dirty = 1;
CREATE INDEX copies_to_move ON copies (goal) WHERE goal IS NOT NULL;
CREATE INDEX copies_to_tag ON copies (retag) WHERE retag = 1;
CREATE INDEX copies_under_way ON copies (stage) WHERE stage <> '';

-- The keywords last told of a copy, by which it is seen what another program set or cleared.
CREATE TABLE copy_keywords (
    copy INTEGER NOT NULL REFERENCES copies (id) ON DELETE CASCADE,
    keyword TEXT NOT NULL COLLATE NOCASE,
    PRIMARY KEY (copy, keyword)
) STRICT, WITHOUT ROWID;
CREATE INDEX copy_keywords_by_keyword ON copy_keywords (keyword, copy);

-- Drafts that were discarded, whole, so that undoing the step brings them back.
CREATE TABLE discarded (
    draft INTEGER PRIMARY KEY REFERENCES drafts (id) ON DELETE CASCADE,
    step INTEGER NOT NULL REFERENCES steps (id) ON DELETE CASCADE
) STRICT;
CREATE INDEX discarded_by_step ON discarded (step);

-- Versions of drafts that stand in a mailbox's Drafts.
CREATE TABLE draft_copies (
    id INTEGER PRIMARY KEY,
    draft INTEGER REFERENCES drafts (id) ON DELETE SET NULL,
    folder INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    message_id TEXT NOT NULL UNIQUE,
    validity INTEGER NOT NULL DEFAULT 0,
    uid INTEGER
) STRICT;
CREATE INDEX draft_copies_by_draft ON draft_copies (draft);
CREATE INDEX draft_copies_by_folder ON draft_copies (folder);

-- What the owner writes, and what waits, goes or failed to go from the outbox.
CREATE TABLE "drafts" (
    id INTEGER PRIMARY KEY,
    sender TEXT NOT NULL,
    recipients TEXT NOT NULL DEFAULT '',
    cc TEXT NOT NULL DEFAULT '',
    bcc TEXT NOT NULL DEFAULT '',
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
    filed INTEGER NOT NULL DEFAULT 0,
    envelope TEXT NOT NULL DEFAULT '',
    continues INTEGER REFERENCES messages (id) ON DELETE SET NULL,
    timed INTEGER NOT NULL DEFAULT 0,
    awaited INTEGER NOT NULL DEFAULT 0,
    phrased INTEGER NOT NULL DEFAULT 0,
    automatic INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE INDEX drafts_by_answered ON drafts (answers) WHERE calendar <> '';
CREATE INDEX drafts_by_continued ON drafts (continues) WHERE continues IS NOT NULL;
CREATE INDEX drafts_by_state ON drafts (state, due_at);

-- Since when a message stands in the Drain (0: not dated yet), by which it is let go.
CREATE TABLE draining (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    since INTEGER NOT NULL
) STRICT;
CREATE INDEX draining_by_since ON draining (since);

-- Which messages an edition holds, so that none stands in two of a plan.
CREATE TABLE edition_items (
    plan INTEGER NOT NULL REFERENCES plans (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    edition INTEGER NOT NULL REFERENCES editions (id),
    PRIMARY KEY (plan, message)
) STRICT, WITHOUT ROWID;

-- Editions as they were put together.
CREATE TABLE editions (
    id INTEGER PRIMARY KEY,
    plan INTEGER NOT NULL REFERENCES plans (id),
    due INTEGER NOT NULL,
    made_at INTEGER NOT NULL,
    name TEXT NOT NULL,
    content TEXT NOT NULL,
    messages INTEGER NOT NULL,
    read_at INTEGER NOT NULL DEFAULT 0,
    message INTEGER REFERENCES messages (id),
    put TEXT NOT NULL DEFAULT '',
    UNIQUE (plan, due)
) STRICT;

-- What was said for always of a sender, list or domain and holds no more.
CREATE TABLE ended (
    step INTEGER NOT NULL REFERENCES steps (id) ON DELETE CASCADE,
    reach TEXT NOT NULL,
    key TEXT NOT NULL,
    lesson INTEGER NOT NULL,
    PRIMARY KEY (step, reach, key)
) STRICT, WITHOUT ROWID;
CREATE INDEX ended_by_key ON ended (reach, key, lesson);

-- Folders of servers: which place each is, and how far it was read.
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
    keywords INTEGER NOT NULL DEFAULT 1,
    UNIQUE (account, name)
) STRICT;
CREATE INDEX folders_by_place ON folders (place, account);

-- How what is noted in `following` was before a step and behind it, so that the step can be undone.
CREATE TABLE followed (
    step INTEGER NOT NULL REFERENCES steps (id),
    kind TEXT NOT NULL,
    message INTEGER NOT NULL REFERENCES messages (id),
    before TEXT NOT NULL,
    behind TEXT NOT NULL,
    PRIMARY KEY (step, kind, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX followed_by_message ON followed (message, step);

-- One row for each message and kind: due, parked, awaited, back, let go.
CREATE TABLE following (
    kind TEXT NOT NULL CHECK (kind IN ('due', 'parked', 'awaited', 'back', 'unanswered', 'settled', 'kept')),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    at INTEGER NOT NULL,
    day INTEGER NOT NULL DEFAULT 0,
    answer INTEGER NOT NULL DEFAULT 0,
    since INTEGER NOT NULL,
    PRIMARY KEY (kind, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX following_by_message ON following (message);
CREATE INDEX following_by_time ON following (kind, at, message);

-- What is due no more has its keyword taken off on servers.
CREATE TRIGGER due_cleared AFTER DELETE ON following WHEN OLD.kind = 'due' BEGIN
    UPDATE copies SET retag = 1 WHERE message = OLD.message AND uid IS NOT NULL;
END;

-- What is due gets its keyword on servers.
CREATE TRIGGER due_set AFTER INSERT ON following WHEN NEW.kind = 'due' BEGIN
    UPDATE copies SET retag = 1 WHERE message = NEW.message AND uid IS NOT NULL;
END;

-- Copies that rules sent on, so that none goes twice and a day has its bound.
CREATE TABLE forwarded (
    rule INTEGER NOT NULL REFERENCES rules (id),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    address TEXT NOT NULL,
    at INTEGER NOT NULL,
    PRIMARY KEY (rule, message, address)
) STRICT, WITHOUT ROWID;
CREATE INDEX forwarded_by_time ON forwarded (at);

-- Addresses the owner writes as.
CREATE TABLE identities (
    address TEXT PRIMARY KEY,
    account INTEGER NOT NULL REFERENCES accounts (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    signature TEXT NOT NULL DEFAULT ''
) STRICT;

-- How far each file of an import was read, so that it goes on there.
CREATE TABLE import_files (
    import INTEGER NOT NULL REFERENCES imports (id),
    path TEXT NOT NULL,
    size INTEGER NOT NULL,
    modified INTEGER NOT NULL,
    done INTEGER NOT NULL,
    PRIMARY KEY (import, path)
) STRICT, WITHOUT ROWID;

-- What an import left out, and why.
CREATE TABLE import_skipped (
    import INTEGER NOT NULL REFERENCES imports (id) ON DELETE CASCADE,
    path TEXT NOT NULL,
    why TEXT NOT NULL,
    PRIMARY KEY (import, path)
) STRICT, WITHOUT ROWID;

-- Imports, and how far they are.
CREATE TABLE imports (
    id INTEGER PRIMARY KEY,
    path TEXT NOT NULL,
    started_at INTEGER NOT NULL,
    finished_at INTEGER,
    state TEXT NOT NULL,
    error TEXT NOT NULL DEFAULT '',
    first_message INTEGER NOT NULL,
    bytes_total INTEGER NOT NULL,
    bytes_done INTEGER NOT NULL DEFAULT 0,
    added INTEGER NOT NULL DEFAULT 0,
    known INTEGER NOT NULL DEFAULT 0,
    mine INTEGER NOT NULL DEFAULT 0) STRICT;

-- Drafts that a step or a rule began, as they were then: undone where nobody wrote on.
CREATE TABLE laid (
    draft INTEGER PRIMARY KEY REFERENCES drafts (id) ON DELETE CASCADE,
    step INTEGER REFERENCES steps (id),
    rule INTEGER REFERENCES rules (id),
    at INTEGER NOT NULL,
    said TEXT NOT NULL
) STRICT;
CREATE INDEX laid_by_step ON laid (step);
CREATE INDEX laid_by_time ON laid (at) WHERE rule IS NOT NULL;

-- What is taken out of the Trash for good and still stands on a server.
CREATE TABLE leaving (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    step INTEGER NOT NULL REFERENCES steps (id)
) STRICT;

-- Sources that stand in no edition.
CREATE TABLE left_out (
    source TEXT NOT NULL,
    step INTEGER NOT NULL REFERENCES steps (id),
    PRIMARY KEY (source, step)
) STRICT, WITHOUT ROWID;

-- Messages the second look offered and the owner left where they stand.
CREATE TABLE left_standing (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE
) STRICT;

-- What the owner said of messages: the vector, where it stood and belongs, how far it reaches.
CREATE TABLE lessons (
    id INTEGER PRIMARY KEY,
    step INTEGER NOT NULL REFERENCES steps (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    at INTEGER NOT NULL,
    stood TEXT NOT NULL REFERENCES places (name),
    belongs TEXT NOT NULL REFERENCES places (name),
    reach TEXT NOT NULL,
    key TEXT NOT NULL,
    feature_version INTEGER NOT NULL,
    features BLOB NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0,
    before REAL NOT NULL DEFAULT 0,
    after REAL NOT NULL DEFAULT 0,
    kin INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE INDEX lessons_by_key ON lessons (reach, key) WHERE undone = 0;
CREATE INDEX lessons_by_message ON lessons (message);
CREATE INDEX lessons_by_step ON lessons (step);

-- Marks of messages before a step, and as it wanted them.
CREATE TABLE marks (
    step INTEGER NOT NULL REFERENCES steps (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    mark TEXT NOT NULL CHECK (mark IN ('seen', 'flagged')),
    wanted INTEGER NOT NULL,
    PRIMARY KEY (step, message, mark)
) STRICT, WITHOUT ROWID;
CREATE INDEX marks_by_message ON marks (message, step);

-- Ids that messages of a thread name, by which later mail finds its thread.
CREATE TABLE mentions (
    message_id TEXT NOT NULL,
    thread INTEGER NOT NULL REFERENCES threads (id),
    PRIMARY KEY (message_id, thread)
) STRICT, WITHOUT ROWID;

-- Every message: what a row shows, where it stands, by what, with which scores.
CREATE TABLE messages (
    id INTEGER PRIMARY KEY,
    digest BLOB NOT NULL UNIQUE,
    message_id TEXT NOT NULL,
    thread INTEGER NOT NULL REFERENCES threads (id),
    bare_subject TEXT NOT NULL,
    time INTEGER NOT NULL,
    sender_address TEXT NOT NULL,
    sender_name TEXT NOT NULL,
    sender_domain TEXT NOT NULL,
    list_id TEXT NOT NULL,
    subject TEXT NOT NULL,
    snippet TEXT NOT NULL,
    size INTEGER NOT NULL,
    attachments INTEGER NOT NULL,
    readable INTEGER NOT NULL,
    seen INTEGER NOT NULL,
    answered INTEGER NOT NULL,
    flagged INTEGER NOT NULL,
    place TEXT NOT NULL REFERENCES places (name),
    decided_by TEXT NOT NULL,
    score REAL NOT NULL,
    low_edge REAL NOT NULL,
    high_edge REAL NOT NULL,
    certainty REAL NOT NULL,
    -- the low bucket it would go to, were it not important
    likely TEXT NOT NULL,
    counted INTEGER NOT NULL,
    assured INTEGER NOT NULL DEFAULT 1,
    asked INTEGER NOT NULL DEFAULT 0,
    source TEXT
    AS (iif(list_id <> '', 'list:' || list_id, 'address:' || sender_address)) VIRTUAL,
    bulk INTEGER NOT NULL DEFAULT 0,
    automatic INTEGER NOT NULL DEFAULT 0,
    reached TEXT NOT NULL DEFAULT '',
    week INTEGER AS ((max(time, 0) + 259200) / 604800) VIRTUAL,
    summed INTEGER AS (CASE
    WHEN decided_by IN ('own', 'edition') OR place IN ('sent', 'drafts', 'junk', 'gone') THEN -1
    WHEN place = 'trash' THEN 1
    WHEN flagged = 1 OR answered = 1 OR decided_by = 'verdict' OR place GLOB 'folder-*' THEN 2 ELSE 0 END) VIRTUAL,
    seen_by TEXT NOT NULL DEFAULT 'elsewhere') STRICT;
CREATE INDEX messages_by_domain ON messages (sender_domain, time);
CREATE INDEX messages_by_list ON messages (list_id) WHERE list_id <> '';
CREATE INDEX messages_by_message_id ON messages (message_id);
CREATE INDEX messages_by_reached ON messages (reached, sender_domain, place, time) WHERE reached <> '';
CREATE INDEX messages_by_score ON messages (place, seen, score DESC, id DESC);
CREATE INDEX messages_by_sender ON messages (sender_address);
CREATE INDEX messages_by_source ON messages (place, source, time DESC, id DESC);
CREATE INDEX messages_by_subject ON messages (bare_subject, time);
CREATE INDEX messages_by_thread ON messages (thread, time);
CREATE INDEX messages_by_time ON messages (place, seen, time DESC, id DESC);
CREATE INDEX messages_by_when ON messages (time DESC, id DESC, place, seen, answered, flagged, attachments, size);
CREATE INDEX messages_of_lists_by_domain ON messages (sender_domain) WHERE list_id <> '';

-- A rule of the job: what came back because nobody had answered is done once it is answered.
CREATE TRIGGER back_answered AFTER UPDATE OF answered ON messages WHEN OLD.answered = 0 AND NEW.answered = 1 BEGIN
    DELETE FROM following WHERE kind IN ('back', 'unanswered') AND message = NEW.id;
END;

-- A rule of the job: what came back to the Desk is back no more once it leaves the Desk.
CREATE TRIGGER back_moved AFTER UPDATE OF place ON messages WHEN OLD.place = 'desk' AND NEW.place <> 'desk' BEGIN
    DELETE FROM following WHERE kind = 'back' AND message = NEW.id;
END;

-- A rule of the job: a copy on a server goes where its message goes, decided in the same change.
CREATE TRIGGER copies_follow AFTER UPDATE OF place, decided_by ON messages
WHEN OLD.place <> NEW.place OR OLD.decided_by <> NEW.decided_by BEGIN
    UPDATE copies SET home = coalesce(home, goal, folder), home_place = OLD.place, home_decided_by = OLD.decided_by
    WHERE message = NEW.id AND uid IS NOT NULL AND home_place IS NULL AND OLD.decided_by <> 'waiting'
        AND folder NOT IN (SELECT id FROM folders WHERE place = iif(NEW.place = 'undecided', 'desk', NEW.place));

    UPDATE copies SET tries = 0, goal = iif(stage <> '', home, nullif(home, folder))
    WHERE message = NEW.id AND uid IS NOT NULL
        AND ((home_place = NEW.place AND home_decided_by = NEW.decided_by) OR NEW.decided_by IN ('history', 'waiting'))
        AND folder IN (SELECT f.id FROM folders AS f JOIN accounts AS a ON a.id = f.account WHERE a.routing = 1);

    UPDATE copies SET tries = 0, goal = (
        SELECT nullif(t.id, copies.folder) FROM folders AS f JOIN folders AS t ON t.account = f.account
        WHERE f.id = copies.folder AND t.place = iif(NEW.place = 'undecided', 'desk', NEW.place) LIMIT 1)
    WHERE message = NEW.id AND uid IS NOT NULL AND OLD.place <> NEW.place
        AND NEW.decided_by NOT IN ('history', 'waiting')
        AND NOT (home_place = NEW.place AND home_decided_by = NEW.decided_by)
        AND folder IN (
            SELECT f.id FROM folders AS f JOIN accounts AS a ON a.id = f.account
            WHERE a.routing = 1
                AND (f.role IN ('inbox', 'bucket') OR f.place = iif(OLD.place = 'undecided', 'desk', OLD.place)));
END;

-- A copy whose marks differ from its message's is to be marked.
CREATE TRIGGER copies_marked AFTER UPDATE OF seen, answered, flagged ON messages
WHEN OLD.seen <> NEW.seen OR OLD.answered <> NEW.answered OR OLD.flagged <> NEW.flagged BEGIN
    UPDATE copies SET dirty = (seen <> NEW.seen OR answered <> NEW.answered OR flagged <> NEW.flagged)
    WHERE message = NEW.id AND uid IS NOT NULL;
END;

-- What arrives in the Drain is dated later, by the room's clock.
CREATE TRIGGER draining_came AFTER INSERT ON messages WHEN NEW.place = 'drain' BEGIN
    INSERT INTO draining VALUES (NEW.id, 0);
END;

-- What is put into the Drain is dated; what leaves it is not let go.
CREATE TRIGGER draining_moved AFTER UPDATE OF place ON messages
WHEN OLD.place <> NEW.place AND (OLD.place = 'drain' OR NEW.place = 'drain') BEGIN
    DELETE FROM draining WHERE message = NEW.id;
    INSERT INTO draining SELECT NEW.id, 0 WHERE NEW.place = 'drain';
END;

-- A rule of the job: whoever takes the flag off a message is done with it.
CREATE TRIGGER due_done AFTER UPDATE OF flagged ON messages WHEN OLD.flagged = 1 AND NEW.flagged = 0 BEGIN
    DELETE FROM following WHERE kind = 'due' AND message = NEW.id;
END;

-- A message without bytes is followed no more.
CREATE TRIGGER following_gone AFTER UPDATE OF place ON messages WHEN NEW.place = 'gone' AND OLD.place <> 'gone' BEGIN
    DELETE FROM following WHERE message = NEW.id;
END;

-- What is taken out of the Trash stays.
CREATE TRIGGER leaving_stays AFTER UPDATE OF place ON messages WHEN OLD.place = 'trash' AND NEW.place <> 'trash' BEGIN
    DELETE FROM leaving WHERE message = NEW.id;
END;

-- Counts of places follow what arrives.
CREATE TRIGGER messages_counted AFTER INSERT ON messages BEGIN
    UPDATE places SET total = total + 1, unread = unread + 1 - NEW.seen WHERE name = NEW.place;
END;

-- Counts of places follow what is deleted.
CREATE TRIGGER messages_gone AFTER DELETE ON messages BEGIN
    UPDATE places SET total = total - 1, unread = unread - 1 + OLD.seen WHERE name = OLD.place;
END;

-- Counts of places follow moves and reading.
CREATE TRIGGER messages_moved AFTER UPDATE OF place, seen ON messages
WHEN OLD.place <> NEW.place OR OLD.seen <> NEW.seen BEGIN
    UPDATE places SET total = total - 1, unread = unread - 1 + OLD.seen WHERE name = OLD.place;
    UPDATE places SET total = total + 1, unread = unread + 1 - NEW.seen WHERE name = NEW.place;
END;

-- Notes what is put on the Desk by hand.
CREATE TRIGGER raised_by_hand AFTER UPDATE OF place ON messages
WHEN new.place = 'desk' AND old.place <> 'desk' AND new.decided_by IN ('verdict', 'filed', 'elsewhere') BEGIN
    INSERT OR IGNORE INTO raised VALUES (new.id);
END;

-- Forgets that of what leaves the Desk.
CREATE TRIGGER raised_no_more AFTER UPDATE OF place ON messages WHEN old.place = 'desk' AND new.place <> 'desk' BEGIN
    DELETE FROM raised WHERE message = new.id;
END;

-- Sums by sender follow what arrives.
CREATE TRIGGER sources_counted AFTER INSERT ON messages BEGIN
    INSERT INTO sources VALUES (NEW.place, NEW.source, 1, 1 - NEW.seen, NEW.time)
        ON CONFLICT (place, source) DO UPDATE SET total = total + 1, unread = unread + excluded.unread,
        newest = max(newest, excluded.newest);
END;

-- Sums by sender follow what is deleted.
CREATE TRIGGER sources_gone AFTER DELETE ON messages BEGIN
    UPDATE sources SET total = total - 1, unread = unread - 1 + OLD.seen,
        newest = iif(OLD.time < newest, newest, coalesce(
            (SELECT time FROM messages WHERE place = OLD.place AND source = OLD.source ORDER BY time DESC LIMIT 1), 0))
        WHERE place = OLD.place AND source = OLD.source;
    DELETE FROM sources WHERE place = OLD.place AND source = OLD.source AND total = 0;
END;

-- Sums by sender follow moves.
CREATE TRIGGER sources_moved AFTER UPDATE OF place ON messages WHEN OLD.place <> NEW.place BEGIN
    UPDATE sources SET total = total - 1, unread = unread - 1 + OLD.seen,
        newest = iif(OLD.time < newest, newest, coalesce(
            (SELECT time FROM messages WHERE place = OLD.place AND source = OLD.source ORDER BY time DESC LIMIT 1), 0))
        WHERE place = OLD.place AND source = OLD.source;
    DELETE FROM sources WHERE place = OLD.place AND source = OLD.source AND total = 0;
    INSERT INTO sources VALUES (NEW.place, NEW.source, 1, 1 - NEW.seen, NEW.time)
        ON CONFLICT (place, source) DO UPDATE SET total = total + 1, unread = unread + excluded.unread,
        newest = max(newest, excluded.newest);
END;

-- Sums by sender follow reading.
CREATE TRIGGER sources_read AFTER UPDATE OF seen ON messages
WHEN OLD.place = NEW.place AND OLD.seen <> NEW.seen BEGIN
    UPDATE sources SET unread = unread + OLD.seen - NEW.seen WHERE place = NEW.place AND source = NEW.source;
END;

-- A message without bytes carries no tag.
CREATE TRIGGER tagged_gone AFTER UPDATE OF place ON messages WHEN NEW.place = 'gone' AND OLD.place <> 'gone' BEGIN
    DELETE FROM tagged WHERE message = NEW.id;
END;

-- Sums of bulk mail follow what arrives.
CREATE TRIGGER weekly_counted AFTER INSERT ON messages WHEN NEW.summed >= 0 BEGIN
    INSERT INTO weekly VALUES (NEW.source, NEW.reached, NEW.week, NEW.summed, 1, 1 - NEW.seen,
        NEW.answered, NEW.size, NEW.bulk, NEW.automatic)
        ON CONFLICT DO UPDATE SET total = total + 1, unread = unread + excluded.unread,
        answered = answered + excluded.answered, size = size + excluded.size, bulk = bulk + excluded.bulk,
        automatic = automatic + excluded.automatic;
END;

-- Sums of bulk mail follow what is deleted.
CREATE TRIGGER weekly_gone AFTER DELETE ON messages WHEN OLD.summed >= 0 BEGIN
    UPDATE weekly SET total = total - 1, unread = unread - 1 + OLD.seen, answered = answered - OLD.answered,
        size = size - OLD.size, bulk = bulk - OLD.bulk, automatic = automatic - OLD.automatic
        WHERE source = OLD.source AND reached = OLD.reached AND week = OLD.week AND kept = OLD.summed;
    DELETE FROM weekly WHERE source = OLD.source AND reached = OLD.reached AND week = OLD.week
        AND kept = OLD.summed AND total = 0;
END;

-- Sums of bulk mail follow reading and answers.
CREATE TRIGGER weekly_marked AFTER UPDATE OF seen, answered ON messages
WHEN OLD.summed = NEW.summed AND NEW.summed >= 0 AND (OLD.seen <> NEW.seen OR OLD.answered <> NEW.answered) BEGIN
    UPDATE weekly SET unread = unread + OLD.seen - NEW.seen, answered = answered - OLD.answered + NEW.answered
        WHERE source = NEW.source AND reached = NEW.reached AND week = NEW.week AND kept = NEW.summed;
END;

-- Sums of bulk mail follow whatever changes which of them a message belongs to.
CREATE TRIGGER weekly_moved AFTER UPDATE OF place, decided_by, flagged, answered, reached, bulk, automatic ON messages
WHEN OLD.summed <> NEW.summed OR OLD.reached <> NEW.reached OR OLD.bulk <> NEW.bulk
    OR OLD.automatic <> NEW.automatic BEGIN
    UPDATE weekly SET total = total - 1, unread = unread - 1 + OLD.seen, answered = answered - OLD.answered,
        size = size - OLD.size, bulk = bulk - OLD.bulk, automatic = automatic - OLD.automatic
        WHERE source = OLD.source AND reached = OLD.reached AND week = OLD.week AND kept = OLD.summed;
    DELETE FROM weekly WHERE source = OLD.source AND reached = OLD.reached AND week = OLD.week
        AND kept = OLD.summed AND total = 0;
    INSERT INTO weekly SELECT NEW.source, NEW.reached, NEW.week, NEW.summed, 1, 1 - NEW.seen,
        NEW.answered, NEW.size, NEW.bulk, NEW.automatic WHERE NEW.summed >= 0
        ON CONFLICT DO UPDATE SET total = total + 1, unread = unread + excluded.unread,
        answered = answered + excluded.answered, size = size + excluded.size, bulk = bulk + excluded.bulk,
        automatic = automatic + excluded.automatic;
END;

-- Which migrations were applied.
CREATE TABLE migrations (
    number INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    applied_at INTEGER NOT NULL
) STRICT;

-- Where each message of a step stood, and where the step put it.
CREATE TABLE moves (
    step INTEGER NOT NULL REFERENCES steps (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    origin TEXT NOT NULL REFERENCES places (name),
    origin_decided_by TEXT NOT NULL,
    target TEXT NOT NULL REFERENCES places (name),
    PRIMARY KEY (step, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX moves_by_message ON moves (message, step);

-- Messages that a rule keeps out of editions.
CREATE TABLE no_edition (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    step INTEGER REFERENCES steps (id)
) STRICT;
CREATE INDEX no_edition_by_step ON no_edition (step) WHERE step IS NOT NULL;

-- Files that go along with a phrase.
CREATE TABLE phrase_files (
    id INTEGER PRIMARY KEY,
    phrase INTEGER NOT NULL REFERENCES phrases (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    media_type TEXT NOT NULL,
    content BLOB NOT NULL
) STRICT;
CREATE INDEX phrase_files_by_phrase ON phrase_files (phrase);

-- For which message a phrase was used: by that it is offered.
CREATE TABLE phrase_uses (
    phrase INTEGER NOT NULL REFERENCES phrases (id) ON DELETE CASCADE,
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    at INTEGER NOT NULL,
    PRIMARY KEY (phrase, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX phrase_uses_by_message ON phrase_uses (message);
CREATE INDEX phrase_uses_by_time ON phrase_uses (at);

-- The phrasebook.
CREATE TABLE phrases (
    id INTEGER PRIMARY KEY,
    short TEXT NOT NULL COLLATE NOCASE UNIQUE,
    text TEXT NOT NULL,
    changed_at INTEGER NOT NULL
) STRICT;

-- Senders whose pictures are loaded.
CREATE TABLE pictured (
    address TEXT PRIMARY KEY,
    at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- Buckets, folders and the places at the side, with how much stands in each.
CREATE TABLE places (
    name TEXT PRIMARY KEY,
    title TEXT NOT NULL,
    band INTEGER NOT NULL DEFAULT -1,
    important INTEGER NOT NULL DEFAULT 0,
    total INTEGER NOT NULL DEFAULT 0,
    unread INTEGER NOT NULL DEFAULT 0,
    notice INTEGER NOT NULL DEFAULT 0,
    rhythm TEXT NOT NULL DEFAULT '',
    looked_at INTEGER NOT NULL DEFAULT 0,
    own INTEGER NOT NULL DEFAULT 0,
    instead TEXT NOT NULL DEFAULT '') STRICT;

-- Plans of editions.
CREATE TABLE plans (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    enabled INTEGER NOT NULL,
    buckets TEXT NOT NULL,
    sources TEXT NOT NULL,
    search TEXT NOT NULL,
    days INTEGER NOT NULL,
    times TEXT NOT NULL,
    zone TEXT NOT NULL,
    grouped TEXT NOT NULL,
    length TEXT NOT NULL,
    delivered INTEGER NOT NULL,
    since INTEGER NOT NULL,
    upto INTEGER NOT NULL,
    removed INTEGER NOT NULL DEFAULT 0
) STRICT;

-- Kin of a lesson that were offered, and what was answered.
CREATE TABLE proposals (
    id INTEGER PRIMARY KEY,
    at INTEGER NOT NULL,
    belongs TEXT NOT NULL REFERENCES places (name),
    answer TEXT NOT NULL DEFAULT '' CHECK (answer IN ('', 'learn', 'leave'))
) STRICT;

-- The messages of such an offer.
CREATE TABLE proposed (
    proposal INTEGER NOT NULL REFERENCES proposals (id) ON DELETE CASCADE,
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    stood TEXT NOT NULL REFERENCES places (name),
    PRIMARY KEY (proposal, message)
) STRICT, WITHOUT ROWID;

-- The states of a queue, in order; each is a tag.
CREATE TABLE queue_states (
    queue INTEGER NOT NULL REFERENCES queues (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    tag INTEGER REFERENCES tags (id),
    PRIMARY KEY (queue, position)
) STRICT, WITHOUT ROWID;
CREATE INDEX queue_states_by_tag ON queue_states (tag);

-- Queues: of which mail, and within how many days a case is to be done.
CREATE TABLE queues (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE,
    of TEXT NOT NULL CHECK (of IN ('bucket', 'tag', 'tray')),
    target TEXT NOT NULL
) STRICT;

-- Mail the owner put on the Desk by hand and has not read since: it is never dealt with.
CREATE TABLE raised (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE
) STRICT;

-- The bytes of each message as they came, compressed.
CREATE TABLE raw (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    zlib BLOB NOT NULL
) STRICT;

-- A tag before a step that changed, merged or removed it, and behind it.
CREATE TABLE retagged (
    step INTEGER NOT NULL REFERENCES steps (id),
    tag INTEGER NOT NULL REFERENCES tags (id),
    before TEXT NOT NULL,
    behind TEXT NOT NULL,
    PRIMARY KEY (step, tag)
) STRICT, WITHOUT ROWID;

-- Routines.
CREATE TABLE routines (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE,
    key TEXT NOT NULL,
    actions TEXT NOT NULL,
    changed_at INTEGER NOT NULL
) STRICT;

-- Which rules held for which message and what that did: the ledger.
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
CREATE INDEX rule_hits_by_time ON rule_hits (at);

-- Rules, in their order.
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

-- Times that were typed, by how often: offered again.
CREATE TABLE said_times (said TEXT PRIMARY KEY,
    times INTEGER NOT NULL,
    last INTEGER NOT NULL) STRICT, WITHOUT ROWID;

-- What was put at a mailbox's server as Sieve, by which it is seen that somebody changed it.
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
    looked_at INTEGER NOT NULL,
    away INTEGER NOT NULL DEFAULT 0) STRICT;

-- Saved searches.
CREATE TABLE searches (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    line TEXT NOT NULL,
    at INTEGER NOT NULL
) STRICT;

-- Everything there is one of, as JSON.
CREATE TABLE settings (
    key TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;

-- Messages that were looked past, and how much that says.
CREATE TABLE silences (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    message INTEGER NOT NULL UNIQUE REFERENCES messages (id),
    after INTEGER NOT NULL,
    at INTEGER NOT NULL,
    place TEXT NOT NULL,
    weight REAL NOT NULL,
    sure INTEGER NOT NULL,
    beside REAL NOT NULL
) STRICT;
CREATE INDEX silences_by_order ON silences (after, id);

-- Sums of a place by sender or list, so that a list of them need not read the mail.
CREATE TABLE sources (
    place TEXT NOT NULL REFERENCES places (name),
    source TEXT NOT NULL,
    total INTEGER NOT NULL,
    unread INTEGER NOT NULL,
    newest INTEGER NOT NULL,
    PRIMARY KEY (place, source)
) STRICT, WITHOUT ROWID;
CREATE INDEX sources_by_newest ON sources (place, newest DESC, source);
CREATE INDEX sources_by_total ON sources (place, total DESC, source);

-- The journal: what was done, by whom, whether it was undone.
CREATE TABLE steps (
    id INTEGER PRIMARY KEY,
    at INTEGER NOT NULL,
    kind TEXT NOT NULL,
    title TEXT NOT NULL,
    undone_at INTEGER,
    actor TEXT NOT NULL DEFAULT 'owner') STRICT;
CREATE INDEX steps_by_time ON steps (at);

-- What was seen of senders, lists and domains: received, read, answered, written.
CREATE TABLE sums (
    key TEXT PRIMARY KEY,
    received INTEGER NOT NULL,
    read INTEGER NOT NULL,
    answered INTEGER NOT NULL,
    written INTEGER NOT NULL,
    timed INTEGER NOT NULL DEFAULT 0,
    waited INTEGER NOT NULL DEFAULT 0) STRICT, WITHOUT ROWID;

-- Which messages carry which tag, and since when where no step says so.
CREATE TABLE tagged (
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    tag INTEGER NOT NULL REFERENCES tags (id),
    since INTEGER NOT NULL DEFAULT 0,
    PRIMARY KEY (message, tag)
) STRICT, WITHOUT ROWID;
CREATE INDEX tagged_by_tag ON tagged (tag, message);

-- Counts of tags, and keywords on servers, follow tags taken off.
CREATE TRIGGER tagged_off AFTER DELETE ON tagged BEGIN
    UPDATE tags SET total = total - 1 WHERE id = OLD.tag;
    UPDATE copies SET retag = 1 WHERE message = OLD.message AND uid IS NOT NULL;
END;

-- Counts of tags, and keywords on servers, follow tags put on.
CREATE TRIGGER tagged_on AFTER INSERT ON tagged BEGIN
    UPDATE tags SET total = total + 1 WHERE id = NEW.tag;
    UPDATE copies SET retag = 1 WHERE message = NEW.message AND uid IS NOT NULL;
END;

-- Tags a step put on or took off.
CREATE TABLE tagging (
    step INTEGER NOT NULL REFERENCES steps (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    tag INTEGER NOT NULL REFERENCES tags (id),
    wanted INTEGER NOT NULL,
    PRIMARY KEY (step, message, tag)
) STRICT, WITHOUT ROWID;
CREATE INDEX tagging_by_message ON tagging (message, step);

-- Tags. One that was deleted keeps its row, so that steps can bring it back.
CREATE TABLE tags (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    tone INTEGER NOT NULL CHECK (tone BETWEEN 0 AND 11),
    parent INTEGER REFERENCES tags (id),
    shown INTEGER NOT NULL DEFAULT 1,
    keyword TEXT NOT NULL COLLATE NOCASE UNIQUE,
    total INTEGER NOT NULL DEFAULT 0,
    removed INTEGER NOT NULL DEFAULT 0
) STRICT;

-- Threads, and whether the owner wrote in them.
CREATE TABLE threads (
    id INTEGER PRIMARY KEY,
    mine INTEGER NOT NULL DEFAULT 0
) STRICT;

-- The owner's answers about a topic; each belongs to a step, so that undoing it takes them back.
CREATE TABLE topic_answers (
    id INTEGER PRIMARY KEY,
    step INTEGER NOT NULL REFERENCES steps (id),
    topic INTEGER NOT NULL REFERENCES topics (id),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    belongs INTEGER NOT NULL,
    drawn INTEGER NOT NULL
) STRICT;
CREATE INDEX topic_answers_by_message ON topic_answers (message);
CREATE INDEX topic_answers_by_step ON topic_answers (step);
CREATE INDEX topic_answers_by_topic ON topic_answers (topic, id);

-- Mail a topic found, and what it asks about.
CREATE TABLE topic_found (
    topic INTEGER NOT NULL REFERENCES topics (id),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    at INTEGER NOT NULL,
    asked INTEGER NOT NULL,
    PRIMARY KEY (topic, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX topic_found_by_message ON topic_found (message);

-- Topics: a tag with what was said of it.
CREATE TABLE topics (
    id INTEGER PRIMARY KEY,
    tag INTEGER NOT NULL REFERENCES tags (id),
    said TEXT NOT NULL,
    words TEXT NOT NULL,
    others TEXT NOT NULL,
    bucket TEXT NOT NULL,
    enabled INTEGER NOT NULL,
    made_at INTEGER NOT NULL,
    removed INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE UNIQUE INDEX topics_by_tag ON topics (tag) WHERE removed = 0;

-- Requests to unsubscribe, and what came of each.
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

-- The vector of each message, by which it is weighed again.
CREATE TABLE vectors (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    features BLOB NOT NULL
) STRICT;

-- Senders and domains the owner vouches for.
CREATE TABLE vouched (
    kind TEXT NOT NULL CHECK (kind IN ('address', 'domain')),
    key TEXT NOT NULL,
    name TEXT NOT NULL,
    at INTEGER NOT NULL,
    PRIMARY KEY (kind, key)
) STRICT, WITHOUT ROWID;

-- Sums of bulk mail by source, address it came to and week, from which subscriptions are told.
CREATE TABLE weekly (
    source TEXT NOT NULL,
    reached TEXT NOT NULL,
    week INTEGER NOT NULL,
    kept INTEGER NOT NULL,
    total INTEGER NOT NULL,
    unread INTEGER NOT NULL,
    answered INTEGER NOT NULL,
    size INTEGER NOT NULL,
    bulk INTEGER NOT NULL,
    automatic INTEGER NOT NULL,
    PRIMARY KEY (source, reached, week, kept)
) STRICT, WITHOUT ROWID;
CREATE INDEX weekly_by_week ON weekly (kept, week, total, size);

-- The words of each message, as the index takes them.
CREATE TABLE words (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    subject TEXT NOT NULL,
    sender TEXT NOT NULL,
    recipients TEXT NOT NULL,
    list TEXT NOT NULL,
    body TEXT NOT NULL,
    cc TEXT NOT NULL DEFAULT '',
    files TEXT NOT NULL DEFAULT '') STRICT;

-- The index follows words that are deleted.
CREATE TRIGGER words_gone AFTER DELETE ON words BEGIN
    INSERT INTO words_index (words_index, rowid, subject, sender, recipients, cc, list, files, body)
    VALUES ('delete', OLD.message, OLD.subject, OLD.sender, OLD.recipients, OLD.cc, OLD.list, OLD.files, OLD.body);
END;

-- The full-text index over `words`.
CREATE VIRTUAL TABLE words_index USING fts5 (
    subject, sender, recipients, cc, list, files, body,
    content = 'words', content_rowid = 'message', tokenize = 'unicode61 remove_diacritics 2'
);

-- The terms of the index, by which searches are completed.
CREATE VIRTUAL TABLE words_terms USING fts5vocab (words_index, 'row');
