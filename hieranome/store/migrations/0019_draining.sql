-- Since when each message stands in the Drain (Unix seconds; 0 until it was looked at). The days it is kept count from
-- then, so that nothing leaves before its day, and what comes back begins anew.
CREATE TABLE draining (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE,
    since INTEGER NOT NULL
) STRICT;
CREATE INDEX draining_by_since ON draining (since);
INSERT INTO draining SELECT id, 0 FROM messages WHERE place = 'drain';

CREATE TRIGGER draining_came AFTER INSERT ON messages WHEN NEW.place = 'drain' BEGIN
    INSERT INTO draining VALUES (NEW.id, 0);
END;

CREATE TRIGGER draining_moved AFTER UPDATE OF place ON messages
WHEN OLD.place <> NEW.place AND (OLD.place = 'drain' OR NEW.place = 'drain') BEGIN
    DELETE FROM draining WHERE message = NEW.id;
    INSERT INTO draining SELECT NEW.id, 0 WHERE NEW.place = 'drain';
END;
