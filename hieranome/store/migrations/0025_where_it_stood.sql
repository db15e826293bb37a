-- Where a copy stood, or was to stand, before its message was first put or decided otherwise, and where the message stood
-- then and by whose word. Once that is so again (a step was undone), the copy goes back to that very folder: mail in the
-- inbox of a server may stand anywhere here.
ALTER TABLE copies ADD COLUMN home_place TEXT;
ALTER TABLE copies ADD COLUMN home_decided_by TEXT;
DROP TRIGGER copies_left_home;
DROP TRIGGER copies_go_home;
DROP TRIGGER copies_follow;

-- The three are one trigger, for their order. A copy that stands where its message goes was moved there by another
-- program: nothing is remembered of it. A move that was begun is gone back from once it has landed; one that was not is
-- not begun. What came with the history goes home wherever home was.
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
