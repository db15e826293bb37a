-- Whom a letter of the outbox goes to, apart from what its headers say.
ALTER TABLE letters ADD COLUMN envelope TEXT NOT NULL DEFAULT '';

-- Whether the owner gave their word that what bears their address in an imported file is theirs.
ALTER TABLE imports ADD COLUMN mine INTEGER NOT NULL DEFAULT 0;

-- Files an import passed over, with the reason.
CREATE TABLE import_skipped (
    import INTEGER NOT NULL REFERENCES imports (id) ON DELETE CASCADE,
    path TEXT NOT NULL,
    why TEXT NOT NULL,
    PRIMARY KEY (import, path)
) STRICT, WITHOUT ROWID;

-- Whether, when it came, nothing spoke against its sender: only such mail shows which lists a sender uses.
ALTER TABLE messages ADD COLUMN assured INTEGER NOT NULL DEFAULT 1;
