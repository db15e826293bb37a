-- What asking about a message was worth when it came is of no use any more.
ALTER TABLE messages DROP COLUMN ask_value;
