"""The web: thin routers over the use cases, and the page."""
