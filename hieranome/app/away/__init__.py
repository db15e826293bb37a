"""The away notice: set, tried out, sent, put at a server."""
