-- What a message says of itself: that it went to many, that a machine made it; the owner's address it came to. Of mail
-- that is here already that is looked up afterwards. The sum it belongs to: 0 for what stands somewhere, 2 for what stands
-- there with a reason to be kept (flagged, answered, a verdict of the owner's, in an own folder), 1 for what is in the
-- Trash, -1 for none of them (the owner's own, what was refused as junk).
ALTER TABLE messages ADD COLUMN bulk INTEGER NOT NULL DEFAULT 0;
ALTER TABLE messages ADD COLUMN automatic INTEGER NOT NULL DEFAULT 0;
ALTER TABLE messages ADD COLUMN reached TEXT NOT NULL DEFAULT '';
ALTER TABLE messages ADD COLUMN summed INTEGER AS (CASE
    WHEN decided_by IN ('own', 'edition') OR place IN ('sent', 'drafts', 'junk') THEN -1
    WHEN place = 'trash' THEN 1
    WHEN flagged = 1 OR answered = 1 OR decided_by = 'verdict' OR place GLOB 'folder-*' THEN 2 ELSE 0 END) VIRTUAL;
ALTER TABLE messages ADD COLUMN week INTEGER AS ((max(time, 0) + 259200) / 604800) VIRTUAL;

-- How much mail came from each source, by the address it came to and the week (Monday to Sunday, UTC, counted from that
-- of the first of January 1970); kept is the sum it belongs to.
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
INSERT INTO weekly
    SELECT source, reached, week, summed, count(*), count(*) - sum(seen), sum(answered), sum(size), 0, 0
    FROM messages WHERE summed >= 0 GROUP BY 1, 2, 3, 4;

CREATE TRIGGER weekly_counted AFTER INSERT ON messages WHEN NEW.summed >= 0 BEGIN
    INSERT INTO weekly VALUES (NEW.source, NEW.reached, NEW.week, NEW.summed, 1, 1 - NEW.seen,
        NEW.answered, NEW.size, NEW.bulk, NEW.automatic)
        ON CONFLICT DO UPDATE SET total = total + 1, unread = unread + excluded.unread,
        answered = answered + excluded.answered, size = size + excluded.size, bulk = bulk + excluded.bulk,
        automatic = automatic + excluded.automatic;
END;

CREATE TRIGGER weekly_marked AFTER UPDATE OF seen, answered ON messages
WHEN OLD.summed = NEW.summed AND NEW.summed >= 0 AND (OLD.seen <> NEW.seen OR OLD.answered <> NEW.answered) BEGIN
    UPDATE weekly SET unread = unread + OLD.seen - NEW.seen, answered = answered - OLD.answered + NEW.answered
        WHERE source = NEW.source AND reached = NEW.reached AND week = NEW.week AND kept = NEW.summed;
END;

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

CREATE TRIGGER weekly_gone AFTER DELETE ON messages WHEN OLD.summed >= 0 BEGIN
    UPDATE weekly SET total = total - 1, unread = unread - 1 + OLD.seen, answered = answered - OLD.answered,
        size = size - OLD.size, bulk = bulk - OLD.bulk, automatic = automatic - OLD.automatic
        WHERE source = OLD.source AND reached = OLD.reached AND week = OLD.week AND kept = OLD.summed;
    DELETE FROM weekly WHERE source = OLD.source AND reached = OLD.reached AND week = OLD.week
        AND kept = OLD.summed AND total = 0;
END;
