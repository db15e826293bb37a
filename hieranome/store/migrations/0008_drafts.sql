-- What the owner writes is called what the trade calls it.
ALTER TABLE letters RENAME TO drafts;
ALTER TABLE drafts RENAME COLUMN copies TO cc;
ALTER TABLE drafts RENAME COLUMN blind TO bcc;
ALTER TABLE enclosures RENAME TO attachments;
ALTER TABLE attachments RENAME COLUMN letter TO draft;
DROP INDEX letters_by_state;
CREATE INDEX drafts_by_state ON drafts (state, due_at);
DROP INDEX enclosures_by_letter;
CREATE INDEX attachments_by_draft ON attachments (draft);
