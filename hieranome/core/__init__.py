"""The job's computation: facts in, decisions out. Imports nothing that touches the world."""
