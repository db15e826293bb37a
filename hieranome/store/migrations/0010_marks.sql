-- What happened to one message is asked for by the message.
CREATE INDEX marks_by_message ON marks (message, step);
CREATE INDEX steps_by_time ON steps (at);
