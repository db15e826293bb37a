-- Who gets a copy (Cc) and what files come along are words of their own: what search calls cc: and file:. Of mail taken
-- in before, who gets a copy stays among the recipients, and the files have no words.
DROP TRIGGER words_gone;
DROP TABLE words_index;
ALTER TABLE words ADD COLUMN cc TEXT NOT NULL DEFAULT '';
ALTER TABLE words ADD COLUMN files TEXT NOT NULL DEFAULT '';
CREATE VIRTUAL TABLE words_index USING fts5 (
    subject, sender, recipients, cc, list, files, body,
    content = 'words', content_rowid = 'message', tokenize = 'unicode61 remove_diacritics 2'
);
INSERT INTO words_index (words_index) VALUES ('rebuild');
CREATE TRIGGER words_gone AFTER DELETE ON words BEGIN
    INSERT INTO words_index (words_index, rowid, subject, sender, recipients, cc, list, files, body)
    VALUES ('delete', OLD.message, OLD.subject, OLD.sender, OLD.recipients, OLD.cc, OLD.list, OLD.files, OLD.body);
END;
