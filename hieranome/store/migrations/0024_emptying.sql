-- What was taken out of the Trash for good. Its row stays, for the lessons and the journal that tell of it, in a place that
-- is shown nowhere; its bytes, its words and its digest go, so that the same message that comes again is a new one.
INSERT INTO places (name, title, band, important) VALUES ('gone', 'Gone', -1, 0);

-- What is to be taken out of the Trash, by the step that said so: first on the servers it stands on, then here. What is
-- put elsewhere meanwhile stays.
CREATE TABLE leaving (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    step INTEGER NOT NULL REFERENCES steps (id)
) STRICT;
CREATE TRIGGER leaving_stays AFTER UPDATE OF place ON messages WHEN OLD.place = 'trash' AND NEW.place <> 'trash' BEGIN
    DELETE FROM leaving WHERE message = NEW.id;
END;

-- What is gone belongs to none of the sums: the computed column and the triggers that read it are made anew.
DROP TRIGGER weekly_counted;
DROP TRIGGER weekly_marked;
DROP TRIGGER weekly_moved;
DROP TRIGGER weekly_gone;
ALTER TABLE messages DROP COLUMN summed;
ALTER TABLE messages ADD COLUMN summed INTEGER AS (CASE
    WHEN decided_by IN ('own', 'edition') OR place IN ('sent', 'drafts', 'junk', 'gone') THEN -1
    WHEN place = 'trash' THEN 1
    WHEN flagged = 1 OR answered = 1 OR decided_by = 'verdict' OR place GLOB 'folder-*' THEN 2 ELSE 0 END) VIRTUAL;

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
