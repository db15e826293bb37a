-- Where parked mail stands.
INSERT INTO places (name, title, band, important) VALUES ('parked', 'Parked', -1, 0);

-- What is to be followed through, one row for each message and kind: 'due' (the day or time to act by), 'parked' (when it
-- returns, 0: not by time; `answer`: once somebody answers; `since`: when it was parked), 'awaited' (when to tell that
-- nobody answered), 'back' (it came back from being parked, at that time; `answer`: because somebody answered),
-- 'unanswered' (nobody answered until then), 'settled' (the owner let it go: nobody owes an answer to it), 'kept' (what
-- was promised in it is done). `day` says that a whole day is meant, told by its first second.
CREATE TABLE following (
    kind TEXT NOT NULL CHECK (kind IN ('due', 'parked', 'awaited', 'back', 'unanswered', 'settled', 'kept')),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    at INTEGER NOT NULL,
    day INTEGER NOT NULL DEFAULT 0,
    answer INTEGER NOT NULL DEFAULT 0,
    since INTEGER NOT NULL,
    PRIMARY KEY (kind, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX following_by_time ON following (kind, at, message);
CREATE INDEX following_by_message ON following (message);

-- What steps did with it: how it was before and behind (JSON; empty: not there).
CREATE TABLE followed (
    step INTEGER NOT NULL REFERENCES steps (id),
    kind TEXT NOT NULL,
    message INTEGER NOT NULL REFERENCES messages (id),
    before TEXT NOT NULL,
    behind TEXT NOT NULL,
    PRIMARY KEY (step, kind, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX followed_by_message ON followed (message, step);

-- What the owner typed for times, and how often: the commonest are offered.
CREATE TABLE said_times (said TEXT PRIMARY KEY, times INTEGER NOT NULL, last INTEGER NOT NULL) STRICT, WITHOUT ROWID;

-- A due date is a keyword on servers: their copies are told.
CREATE TRIGGER due_set AFTER INSERT ON following WHEN NEW.kind = 'due' BEGIN
    UPDATE copies SET retag = 1 WHERE message = NEW.message AND uid IS NOT NULL;
END;
CREATE TRIGGER due_cleared AFTER DELETE ON following WHEN OLD.kind = 'due' BEGIN
    UPDATE copies SET retag = 1 WHERE message = OLD.message AND uid IS NOT NULL;
END;
-- Whoever takes the flag off has done it.
CREATE TRIGGER due_done AFTER UPDATE OF flagged ON messages WHEN OLD.flagged = 1 AND NEW.flagged = 0 BEGIN
    DELETE FROM following WHERE kind = 'due' AND message = NEW.id;
END;
-- What came back was dealt with once it is answered or put elsewhere.
CREATE TRIGGER back_answered AFTER UPDATE OF answered ON messages WHEN OLD.answered = 0 AND NEW.answered = 1 BEGIN
    DELETE FROM following WHERE kind IN ('back', 'unanswered') AND message = NEW.id;
END;
CREATE TRIGGER back_moved AFTER UPDATE OF place ON messages WHEN OLD.place = 'desk' AND NEW.place <> 'desk' BEGIN
    DELETE FROM following WHERE kind = 'back' AND message = NEW.id;
END;
CREATE TRIGGER following_gone AFTER UPDATE OF place ON messages WHEN NEW.place = 'gone' AND OLD.place <> 'gone' BEGIN
    DELETE FROM following WHERE message = NEW.id;
END;

-- Mail that goes at a time of the owner's choice: that time (0: at once).
ALTER TABLE drafts ADD COLUMN timed INTEGER NOT NULL DEFAULT 0;
-- When to tell that nobody answered a message, once it has gone (0: never).
ALTER TABLE drafts ADD COLUMN awaited INTEGER NOT NULL DEFAULT 0;

-- Where the owner has trays, what is due heads the Desk.
UPDATE settings SET value = (
    SELECT json_group_array(json(one)) FROM (
        SELECT '{"kind":"due","name":"Due and back","line":"","order":"time","rows":30,"folded":false,"days":3,"beside":false}'
            AS one
        UNION ALL SELECT e.value FROM json_each(settings.value) AS e))
WHERE key = 'trays' AND json_array_length(value) > 0;
