-- Tags of the owner's, and the keywords they are on servers. A tag that is no longer there keeps its row, so that what
-- steps of the journal did with it can be taken back.
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

CREATE TABLE tagged (
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    tag INTEGER NOT NULL REFERENCES tags (id),
    PRIMARY KEY (message, tag)
) STRICT, WITHOUT ROWID;
CREATE INDEX tagged_by_tag ON tagged (tag, message);

-- What a step put on messages and took off them.
CREATE TABLE tagging (
    step INTEGER NOT NULL REFERENCES steps (id),
    message INTEGER NOT NULL REFERENCES messages (id),
    tag INTEGER NOT NULL REFERENCES tags (id),
    wanted INTEGER NOT NULL,
    PRIMARY KEY (step, message, tag)
) STRICT, WITHOUT ROWID;
CREATE INDEX tagging_by_message ON tagging (message, step);

-- Tags a step made or changed: what they were before it (JSON, null where it made them) and behind it.
CREATE TABLE retagged (
    step INTEGER NOT NULL REFERENCES steps (id),
    tag INTEGER NOT NULL REFERENCES tags (id),
    before TEXT NOT NULL,
    behind TEXT NOT NULL,
    PRIMARY KEY (step, tag)
) STRICT, WITHOUT ROWID;

-- The keywords a server last told of a copy, those of other programs too.
CREATE TABLE copy_keywords (
    copy INTEGER NOT NULL REFERENCES copies (id) ON DELETE CASCADE,
    keyword TEXT NOT NULL COLLATE NOCASE,
    PRIMARY KEY (copy, keyword)
) STRICT, WITHOUT ROWID;
CREATE INDEX copy_keywords_by_keyword ON copy_keywords (keyword, copy);

-- 1 where the server may have to be told the tags of a copy.
ALTER TABLE copies ADD COLUMN retag INTEGER NOT NULL DEFAULT 0;
CREATE INDEX copies_to_tag ON copies (retag) WHERE retag = 1;
-- 0 where a folder takes no keywords of ours.
ALTER TABLE folders ADD COLUMN keywords INTEGER NOT NULL DEFAULT 1;

CREATE TRIGGER tagged_on AFTER INSERT ON tagged BEGIN
    UPDATE tags SET total = total + 1 WHERE id = NEW.tag;
    UPDATE copies SET retag = 1 WHERE message = NEW.message AND uid IS NOT NULL;
END;

CREATE TRIGGER tagged_off AFTER DELETE ON tagged BEGIN
    UPDATE tags SET total = total - 1 WHERE id = OLD.tag;
    UPDATE copies SET retag = 1 WHERE message = OLD.message AND uid IS NOT NULL;
END;

CREATE TRIGGER tagged_gone AFTER UPDATE OF place ON messages WHEN NEW.place = 'gone' AND OLD.place <> 'gone' BEGIN
    DELETE FROM tagged WHERE message = NEW.id;
END;
