"""Routines: kept, tried, done."""
