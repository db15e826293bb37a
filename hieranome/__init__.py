"""Hieranome: mail weighed and ordered by what matters to its owner."""

__version__ = "0.1.0"
