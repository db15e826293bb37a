-- Whether the owner was asked about a message when it came: where it stands now does not tell once it was answered.
ALTER TABLE messages ADD COLUMN asked INTEGER NOT NULL DEFAULT 0;

UPDATE messages SET asked = 1 WHERE place = 'undecided';

-- The newest message when mail of a mailbox was first routed (0: never): the old mail of its inbox is moved then, once;
-- later turns move what came since and what was decided on.
ALTER TABLE accounts ADD COLUMN routed INTEGER NOT NULL DEFAULT 0;

UPDATE accounts SET routed = (SELECT coalesce(max(id), 0) FROM messages) WHERE routing = 1;
