"""Queues: kept, shown by state, worked through."""
