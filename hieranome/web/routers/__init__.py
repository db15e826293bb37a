"""Routers: parse, call a use case, answer."""
