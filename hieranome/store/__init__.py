"""The owner's data in one SQLite file, by plain SQL: one module of queries per noun."""

from hieranome.store.database import Database

__all__ = ["Database"]
