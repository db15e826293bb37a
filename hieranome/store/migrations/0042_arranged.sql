CREATE TABLE arranged (
    step INTEGER NOT NULL REFERENCES steps (id) ON DELETE CASCADE,
    thing TEXT NOT NULL,
    key TEXT NOT NULL,
    before TEXT NOT NULL,
    behind TEXT NOT NULL,
    PRIMARY KEY (step, thing, key)
) STRICT, WITHOUT ROWID;
CREATE INDEX arranged_by_thing ON arranged (thing, key);
