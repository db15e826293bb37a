"""The outbox, and how what waits in it is handed in."""
