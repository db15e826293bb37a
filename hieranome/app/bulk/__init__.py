"""Bulk mail: what is subscribed to, editions and their plans."""
