-- The source of a message: its list, or else its sender, by the same keys as the sums of the history.
ALTER TABLE messages ADD COLUMN source TEXT
    AS (iif(list_id <> '', 'list:' || list_id, 'address:' || sender_address)) VIRTUAL;
CREATE INDEX messages_by_source ON messages (place, source, time DESC, id DESC);

-- How much mail of each source stands in each place: kept by triggers, read to show a bucket by source. newest is the
-- time of its newest message there.
CREATE TABLE sources (
    place TEXT NOT NULL REFERENCES places (name),
    source TEXT NOT NULL,
    total INTEGER NOT NULL,
    unread INTEGER NOT NULL,
    newest INTEGER NOT NULL,
    PRIMARY KEY (place, source)
) STRICT, WITHOUT ROWID;
CREATE INDEX sources_by_total ON sources (place, total DESC, source);
CREATE INDEX sources_by_newest ON sources (place, newest DESC, source);
INSERT INTO sources
    SELECT place, source, count(*), count(*) - sum(seen), max(time) FROM messages GROUP BY place, source;

CREATE TRIGGER sources_counted AFTER INSERT ON messages BEGIN
    INSERT INTO sources VALUES (NEW.place, NEW.source, 1, 1 - NEW.seen, NEW.time)
        ON CONFLICT (place, source) DO UPDATE SET total = total + 1, unread = unread + excluded.unread,
        newest = max(newest, excluded.newest);
END;

CREATE TRIGGER sources_read AFTER UPDATE OF seen ON messages
WHEN OLD.place = NEW.place AND OLD.seen <> NEW.seen BEGIN
    UPDATE sources SET unread = unread + OLD.seen - NEW.seen WHERE place = NEW.place AND source = NEW.source;
END;

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

CREATE TRIGGER sources_gone AFTER DELETE ON messages BEGIN
    UPDATE sources SET total = total - 1, unread = unread - 1 + OLD.seen,
        newest = iif(OLD.time < newest, newest, coalesce(
            (SELECT time FROM messages WHERE place = OLD.place AND source = OLD.source ORDER BY time DESC LIMIT 1), 0))
        WHERE place = OLD.place AND source = OLD.source;
    DELETE FROM sources WHERE place = OLD.place AND source = OLD.source AND total = 0;
END;
