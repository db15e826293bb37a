"""What everything works in: the store, the model and what is kept of both in memory, changed in one way."""
