CREATE TABLE raised (
    message INTEGER PRIMARY KEY REFERENCES messages (id) ON DELETE CASCADE
) STRICT;
CREATE TRIGGER raised_by_hand AFTER UPDATE OF place ON messages
WHEN new.place = 'desk' AND old.place <> 'desk' AND new.decided_by IN ('verdict', 'filed', 'elsewhere') BEGIN
    INSERT OR IGNORE INTO raised VALUES (new.id);
END;
CREATE TRIGGER raised_no_more AFTER UPDATE OF place ON messages WHEN old.place = 'desk' AND new.place <> 'desk' BEGIN
    DELETE FROM raised WHERE message = new.id;
END;
