-- Mail that came through lists by the domain of who wrote it: what is vouched for is kept apart from what may go.
CREATE INDEX messages_of_lists_by_domain ON messages (sender_domain) WHERE list_id <> '';
