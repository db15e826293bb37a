-- The folder a copy stood in before we first moved it. What came with the history stands here where it was filed long ago,
-- and there where it always did: undone, a move brings it back there, not to the folder of its place here.
ALTER TABLE copies ADD COLUMN home INTEGER REFERENCES folders (id);

CREATE TRIGGER copies_left_home AFTER UPDATE OF folder ON copies
WHEN OLD.folder <> NEW.folder AND OLD.home IS NULL BEGIN
    UPDATE copies SET home = OLD.folder WHERE id = NEW.id;
END;

-- A move that was begun is gone back from once it has landed; one that was not is not begun.
CREATE TRIGGER copies_go_home AFTER UPDATE OF place ON messages
WHEN OLD.place <> NEW.place AND NEW.decided_by IN ('history', 'waiting')
    AND OLD.decided_by NOT IN ('history', 'waiting') BEGIN
    UPDATE copies SET tries = 0,
        goal = CASE WHEN stage <> '' THEN folder WHEN goal IS NOT NULL THEN NULL ELSE nullif(home, folder) END
    WHERE message = NEW.id AND uid IS NOT NULL AND folder IN (
        SELECT f.id FROM folders AS f JOIN accounts AS a ON a.id = f.account WHERE a.routing = 1);
END;
