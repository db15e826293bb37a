-- Which words the index of words holds, and how many messages hold each; it takes no room of its own.
CREATE VIRTUAL TABLE words_terms USING fts5vocab (words_index, 'row');

-- Tags that learn which mail is theirs: what was said of it; what is looked for (JSON: the words that were said with
-- what each counts, and those that stand beside them); the messages nobody answered about that are learned from (JSON);
-- where its mail is put as it arrives (empty: where it would stand anyway); whether mail is tagged as it arrives.
CREATE TABLE topics (
    id INTEGER PRIMARY KEY,
    tag INTEGER NOT NULL REFERENCES tags (id),
    said TEXT NOT NULL,
    words TEXT NOT NULL,
    others TEXT NOT NULL,
    bucket TEXT NOT NULL,
    enabled INTEGER NOT NULL,
    made_at INTEGER NOT NULL,
    removed INTEGER NOT NULL DEFAULT 0
) STRICT;
CREATE UNIQUE INDEX topics_by_tag ON topics (tag) WHERE removed = 0;

-- What the owner answered, each as part of a step: one that was undone counts no more, the last of a message counts.
-- `drawn` says that the message was drawn by lot from those the topic held for its own.
CREATE TABLE topic_answers (
    id INTEGER PRIMARY KEY,
    step INTEGER NOT NULL REFERENCES steps (id),
    topic INTEGER NOT NULL REFERENCES topics (id),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    belongs INTEGER NOT NULL,
    drawn INTEGER NOT NULL
) STRICT;
CREATE INDEX topic_answers_by_topic ON topic_answers (topic, id);
CREATE INDEX topic_answers_by_step ON topic_answers (step);
CREATE INDEX topic_answers_by_message ON topic_answers (message);

-- Mail a topic found by itself as it arrived, and mail it asks about in Your call.
CREATE TABLE topic_found (
    topic INTEGER NOT NULL REFERENCES topics (id),
    message INTEGER NOT NULL REFERENCES messages (id) ON DELETE CASCADE,
    at INTEGER NOT NULL,
    asked INTEGER NOT NULL,
    PRIMARY KEY (topic, message)
) STRICT, WITHOUT ROWID;
CREATE INDEX topic_found_by_message ON topic_found (message);
